<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Permission;
use Symfony\Component\HttpKernel\Exception\AccessDeniedHttpException;

/** Who may take which kind of file over. */
final readonly class ImportDoors
{
    /** Not a list but one invoice, read into a draft. */
    public const ELECTRONIC = 'electronic-invoice';

    /** Nor this: one order. */
    public const ORDER = 'electronic-order';

    private const PERMISSIONS = [
        self::ELECTRONIC => Permission::EnterPayables,
        'vendors' => Permission::EnterPayables,
        'vendor-invoices' => Permission::EnterPayables,
        'purchase-orders' => Permission::EnterOrders,
        self::ORDER => Permission::EnterOrders,
        'deliveries' => Permission::RecordDeliveries,
        'payments' => Permission::PayVendors,
        'customers' => Permission::EnterReceivables,
        'customer-invoices' => Permission::EnterReceivables,
        'receipts' => Permission::EnterReceivables,
    ];

    public function __construct(private Importers $importers)
    {
    }

    /** @return list<string> what this person may take over here */
    public function kinds(Desk $desk): array
    {
        return array_values(
            array_filter(
                [...$this->importers->kinds(), self::ELECTRONIC, self::ORDER],
                static fn (string $kind): bool => $desk->may(self::PERMISSIONS[$kind] ?? Permission::Control),
            ),
        );
    }

    public function mayTake(Desk $desk, string $kind): void
    {
        if (!\in_array($kind, $this->kinds($desk), true)) {
            throw new AccessDeniedHttpException(
                \sprintf('Your role may not import %s here.', '' === $kind ? 'this' : mb_strimwidth($kind, 0, 30, '…')),
            );
        }
    }
}
