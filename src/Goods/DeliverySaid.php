<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** What a delivery did to the books, in words: no more and no less than was posted; what invoices say only to whoever sees payables. */
final readonly class DeliverySaid
{
    public function __construct(private DeliveryQuery $query)
    {
    }

    /** Of one that is recorded, or accepted, just now. */
    public function recorded(Desk $desk, int $id, string $verb): string
    {
        ['number' => $number, 'rose' => $rose, 'came' => $came, 'waited' => $waited] = $this->query->recorded($id);
        $said = [\sprintf('%s %s.', $verb, $number)];
        if (0 !== $rose || 0 === $waited) {
            $said[] = \sprintf(
                'Received-not-invoiced rose by %s, until the vendor’s invoice comes.',
                self::money($desk, $rose),
            );
        }
        if (0 !== $waited) {
            $said[] = \sprintf('Goods of %s were invoiced before they came.', self::money($desk, $came));
        }
        if (0 !== $waited && $desk->sees(Side::Payables)) {
            $said[] = \sprintf('Invoiced-not-received fell by %s.', self::money($desk, $waited));
        }

        return implode(' ', $said);
    }

    /** @param array{number: string, rose: int, came: int, waited: int} $before as it stood before it was taken back */
    public static function takenBack(Desk $desk, array $before, Day $day): string
    {
        $said = [\sprintf('%s is reversed as of %s.', $before['number'], $day->long())];
        if (0 !== $before['rose'] || 0 === $before['waited']) {
            $said[] = \sprintf('Received-not-invoiced fell by %s.', self::money($desk, $before['rose']));
        }
        if (0 !== $before['waited']) {
            $said[] = 'Its invoices wait for goods again.';
        }
        if (0 !== $before['waited'] && $desk->sees(Side::Payables)) {
            $said[] = \sprintf('Invoiced-not-received rose by %s.', self::money($desk, $before['waited']));
        }

        return implode(' ', $said);
    }

    private static function money(Desk $desk, int $minor): string
    {
        return Typography::amount($minor, $desk->company->baseCurrency).' '.$desk->company->baseCurrency;
    }
}
