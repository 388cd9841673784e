<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Books\LotOf;
use Nelbix\Core\Ledger\Side;

/** A kind of file that is posted, and so goes in slices when it is long: what its records become, and on which side. */
enum LotKind: string
{
    case VendorInvoices = 'vendor-invoices';
    case CustomerInvoices = 'customer-invoices';
    case OpeningPayables = 'opening-payables';
    case OpeningReceivables = 'opening-receivables';
    case Payments = 'payments';
    case Receipts = 'receipts';
    case Settlements = 'settlements';
    case Journal = 'journal';
    case Deliveries = 'deliveries';

    public function holds(): LotOf
    {
        return match ($this) {
            self::Settlements => LotOf::Settlements,
            self::Journal => LotOf::Entries,
            self::Deliveries => LotOf::Deliveries,
            default => LotOf::Documents,
        };
    }

    /** @return Side|null null when its records are of both, or of none */
    public function side(): ?Side
    {
        return match ($this) {
            self::VendorInvoices, self::OpeningPayables, self::Payments, self::Deliveries => Side::Payables,
            self::CustomerInvoices, self::OpeningReceivables, self::Receipts => Side::Receivables,
            self::Settlements, self::Journal => null,
        };
    }
}
