<?php

declare(strict_types=1);

namespace Nelbix\Core\Tax;

use Brick\Math\BigDecimal;
use Nelbix\Core\Money\Rounding;

/** Tax withheld from a party when it is paid, on the net part of what is settled. Source: rules.md, Tax. */
final readonly class Withholding
{
    /**
     * @param BigDecimal $percent of the net, such as 10
     * @param int        $net     the document's net, minor units
     * @param int        $total   the document's total; not zero
     */
    public function __construct(private BigDecimal $percent, private int $net, private int $total)
    {
    }

    /**
     * round(percent × (net − net part of the discount)), in proportion on a part.
     *
     * @param int $settled  gross, in the item's own sign: negative for a credit, which lowers what is withheld
     * @param int $discount the discount within it, same sign
     *
     * @return int minor units, same sign as $settled
     */
    public function on(int $settled, int $discount): int
    {
        return TaxCalculator::withholding(Rounding::proportion($settled, $this->net, $this->total), Rounding::proportion($discount, $this->net, $this->total), $this->percent);
    }
}
