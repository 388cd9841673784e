<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\App\Platform\Permission;

/** The roles of product.md and what each may do. Nothing is allowed that does not stand here. */
enum Role: string
{
    case Payables = 'payables';
    case Receivables = 'receivables';
    case Buyer = 'buyer';
    case Receiver = 'receiver';
    case Approver = 'approver';
    case Controller = 'controller';
    case Auditor = 'auditor';

    public function words(): string
    {
        return match ($this) {
            self::Payables => 'payables clerk',
            self::Receivables => 'receivables clerk',
            default => $this->value,
        };
    }

    /**
     * Duties that are better kept apart, when one person has them all.
     *
     * @param list<self> $roles
     *
     * @return list<string> in words
     */
    public static function apart(array $roles): array
    {
        $has = static fn (self $role): bool => \in_array($role, $roles, true);

        return array_keys(
            array_filter([
                'enters vendor invoices and payments, and approves them' => $has(self::Approver) && $has(self::Payables),
                'enters receipts and write-offs, and approves them' => $has(self::Approver) && $has(self::Receivables),
                'gives people their roles and limits, and approves' => $has(self::Approver) && $has(self::Controller),
                'orders goods, and enters their invoices' => $has(self::Buyer) && $has(self::Payables),
                'orders goods, and records that they came' => $has(self::Buyer) && $has(self::Receiver),
                'records deliveries, and enters their invoices' => $has(self::Receiver) && $has(self::Payables),
                'audits what they do themselves' => $has(self::Auditor) && \count($roles) > 1,
            ]),
        );
    }

    public function approves(): bool
    {
        return \in_array(Permission::Approve, $this->permissions(), true);
    }

    /** @return list<Permission> */
    public function permissions(): array
    {
        return match ($this) {
            self::Payables => [
                Permission::Enter,
                Permission::PlaceBankLines,
                Permission::PairRecords,
                Permission::EnterJournal,
                Permission::WriteNotes,
                Permission::SeePayables,
                Permission::SeeOrders,
                Permission::SeeDeliveries,
                Permission::EnterPayables,
                Permission::PayVendors,
                Permission::SeeLedger,
            ],
            self::Receivables => [
                Permission::Enter,
                Permission::PlaceBankLines,
                Permission::PairRecords,
                Permission::EnterJournal,
                Permission::WriteNotes,
                Permission::SeeReceivables,
                Permission::EnterReceivables,
                Permission::SeeLedger,
            ],
            self::Buyer => [
                Permission::Enter,
                Permission::WriteNotes,
                Permission::SeePayables,
                Permission::SeeOrders,
                Permission::EnterOrders,
                Permission::SeeDeliveries,
                Permission::ReleaseMatches,
            ],
            self::Receiver => [
                Permission::Enter,
                Permission::WriteNotes,
                Permission::SeeOrders,
                Permission::SeeDeliveries,
                Permission::RecordDeliveries,
            ],
            self::Approver => [
                Permission::Enter,
                Permission::WriteNotes,
                Permission::SeePayables,
                Permission::SeeOrders,
                Permission::SeeDeliveries,
                Permission::SeeReceivables,
                Permission::SeeLedger,
                Permission::Approve,
                Permission::ReleaseMatches,
            ],
            self::Controller => [
                Permission::Enter,
                Permission::PlaceBankLines,
                Permission::PairRecords,
                Permission::EnterJournal,
                Permission::WriteNotes,
                Permission::SeePayables,
                Permission::SeeOrders,
                Permission::EnterOrders,
                Permission::SeeDeliveries,
                Permission::RecordDeliveries,
                Permission::SeeReceivables,
                Permission::SeeLedger,
                Permission::EnterPayables,
                Permission::EnterReceivables,
                Permission::PayVendors,
                Permission::Control,
                Permission::ReleaseMatches,
            ],
            self::Auditor => [
                Permission::Enter,
                Permission::SeePayables,
                Permission::SeeOrders,
                Permission::SeeDeliveries,
                Permission::SeeReceivables,
                Permission::SeeLedger,
                Permission::SeeSetup,
            ],
        };
    }
}
