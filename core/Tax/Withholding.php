<?php

declare(strict_types=1);

namespace Nelbix\Core\Tax;

use Brick\Math\BigDecimal;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Money\Rounding;

/** Tax withheld from a party when it is paid, on the net part of what is settled. Source: rules.md, Tax. */
final readonly class Withholding
{
    /**
     * @param BigDecimal $percent of the net, such as 10
     * @param int $net the document's net, minor units
     * @param int $total the document's total; not zero
     */
    public function __construct(private BigDecimal $percent, private int $net, private int $total)
    {
    }

    /**
     * What is withheld from a party with this percent on a document; null where nothing is: without a percent, and on what is not invoiced.
     *
     * @param string|null $percent of the party, a decimal
     * @param int $net the document's net, minor units
     * @param int $total the document's total, minor units
     */
    public static function ofDocument(?string $percent, DocumentKind $kind, int $net, int $total): ?self
    {
        return null === $percent || !$kind->isInvoiced() || 0 === $total
            ? null
            : new self(BigDecimal::of($percent), $net, $total);
    }

    /**
     * round(percent × (net − net part of the discount)), in proportion on a part.
     *
     * @param int $settled gross, in the item's own sign: negative for a credit, which lowers what is withheld
     * @param int $discount the discount within it, same sign
     *
     * @return int minor units, same sign as $settled
     */
    public function on(int $settled, int $discount): int
    {
        return TaxCalculator::withholding(
            Rounding::proportion($settled, $this->net, $this->total),
            Rounding::proportion($discount, $this->net, $this->total),
            $this->percent,
        );
    }
}
