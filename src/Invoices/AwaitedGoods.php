<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Nelbix\App\Goods\OrderedLine;
use Nelbix\Core\Money\Currency;

/** A line of an invoice beside the ordered goods that it waits for. */
final readonly class AwaitedGoods extends OrderedGoods
{
    /**
     * @param int $control invoiced-not-received
     * @param int $variance account of what is invoiced more or less than is accrued when it comes
     */
    public function __construct(
        public OrderedLine $goods,
        BigDecimal $quantity,
        public int $control,
        public int $variance,
    ) {
        parent::__construct(
            $goods->text,
            $goods->order,
            $quantity,
            $goods->price,
            $goods->id,
            $goods->quantity,
            $goods->invoiced,
            $goods->orderedBy,
            Currency::of($goods->currency),
        );
    }

    public function price(): BigDecimal
    {
        return $this->goods->price;
    }

    public function received(): bool
    {
        return false;
    }
}
