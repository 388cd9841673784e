<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\App\Platform\Permission;

/** The roles of product.md and what each may do. Nothing is allowed that does not stand here. */
enum Role: string
{
    case Payables = 'payables';
    case Receivables = 'receivables';
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

    /** @return list<Permission> */
    public function permissions(): array
    {
        return match ($this) {
            self::Payables => [
                Permission::Enter,
                Permission::WriteNotes,
                Permission::SeePayables,
                Permission::SeeDeliveries,
                Permission::EnterPayables,
                Permission::PayVendors,
                Permission::SeeLedger,
            ],
            self::Receivables => [
                Permission::Enter,
                Permission::WriteNotes,
                Permission::SeeReceivables,
                Permission::EnterReceivables,
                Permission::SeeLedger,
            ],
            self::Receiver => [
                Permission::Enter,
                Permission::WriteNotes,
                Permission::SeeDeliveries,
                Permission::RecordDeliveries,
            ],
            self::Approver => [
                Permission::Enter,
                Permission::WriteNotes,
                Permission::SeePayables,
                Permission::SeeDeliveries,
                Permission::SeeReceivables,
                Permission::SeeLedger,
                Permission::Approve,
            ],
            self::Controller => [
                Permission::Enter,
                Permission::WriteNotes,
                Permission::SeePayables,
                Permission::SeeDeliveries,
                Permission::RecordDeliveries,
                Permission::SeeReceivables,
                Permission::SeeLedger,
                Permission::EnterPayables,
                Permission::EnterReceivables,
                Permission::PayVendors,
                Permission::Control,
            ],
            self::Auditor => [
                Permission::Enter,
                Permission::SeePayables,
                Permission::SeeDeliveries,
                Permission::SeeReceivables,
                Permission::SeeLedger,
                Permission::SeeSetup,
            ],
        };
    }
}
