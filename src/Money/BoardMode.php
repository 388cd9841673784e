<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** What is placed on the board: money that came or went, money a vendor gave back, or no money at all. */
enum BoardMode: string
{
    case Receipt = 'receipt';
    case Payment = 'payment';
    case Refund = 'refund';
    case Settle = 'settle';

    public function fits(Side $side): bool
    {
        return match ($this) {
            self::Receipt => Side::Receivables === $side,
            self::Payment, self::Refund => Side::Payables === $side,
            self::Settle => true,
        };
    }

    public function hasMoney(): bool
    {
        return self::Settle !== $this;
    }

    public function kind(bool $prepayment): DocumentKind
    {
        return match (true) {
            self::Refund === $this => DocumentKind::Refund,
            $prepayment => DocumentKind::Prepayment,
            self::Receipt === $this => DocumentKind::Receipt,
            default => DocumentKind::Payment,
        };
    }

    /** The rows are seen with this sign: a refund is placed on credits as a payment is on invoices. */
    public function sign(): int
    {
        return self::Refund === $this ? -1 : 1;
    }

    public function title(): string
    {
        return match ($this) {
            self::Receipt => 'Receipt',
            self::Payment => 'Payment',
            self::Refund => 'Refund received',
            self::Settle => 'Settle without money',
        };
    }

    /** What the left column holds beside credits, in a word. */
    public function money(): string
    {
        return match ($this) {
            self::Receipt => 'Receipt',
            self::Payment => 'Payment',
            self::Refund => 'Refund',
            self::Settle => '',
        };
    }
}
