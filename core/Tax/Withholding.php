<?php

declare(strict_types=1);

namespace Nelbix\Core\Tax;

use Brick\Math\BigDecimal;
use Brick\Math\BigRational;
use Nelbix\Core\Money\Rounding;

/**
 * Tax withheld from a party when it is paid: round(percent × (net − net part of the discount)), rounded once. The discount is all
 * net where its base is net of tax. Parts of an item together withhold what the whole would: the last part takes the rest.
 * Source: rules.md, Tax.
 */
final readonly class Withholding
{
    /**
     * @param BigDecimal $percent of the net, such as 10
     * @param int $net the document's net, minor units
     * @param int $total the document's total; not zero
     * @param bool $discountIsNet the discount's base is net of tax
     * @param int $paid what payments settled of the item before, gross, in its sign
     * @param int $discounted the discount in that, same sign
     * @param int $withheld what was withheld of that, same sign
     */
    public function __construct(
        private BigDecimal $percent,
        private int $net,
        private int $total,
        private bool $discountIsNet = false,
        private int $paid = 0,
        private int $discounted = 0,
        private int $withheld = 0,
    ) {
    }

    /**
     * What is withheld when so much is paid.
     *
     * @param int $settled gross, in the item's own sign: negative for a credit, which lowers what is withheld
     * @param int $discount the discount within it, same sign
     * @param bool $last nothing of the item is left afterwards
     *
     * @return int minor units, same sign as $settled
     */
    public function on(int $settled, int $discount, bool $last = false): int
    {
        return $last
            ? $this->of($this->paid + $settled, $this->discounted + $discount) - $this->withheld
            : $this->of($settled, $discount);
    }

    private function of(int $settled, int $discount): int
    {
        $share = BigRational::nd($this->net, $this->total);
        $net = $share->multipliedBy($settled)->minus($share->multipliedBy($discount));
        if ($this->discountIsNet) {
            $net = $share->multipliedBy($settled)->minus($discount);
        }

        return Rounding::toInt($net->multipliedBy($this->percent->toBigRational())->dividedBy(100));
    }
}
