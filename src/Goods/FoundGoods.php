<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;

/** A part of what a paper names: of a delivery, or of an order that is still to come. */
final readonly class FoundGoods
{
    public function __construct(public AccruedLine|OrderedLine $of, public BigDecimal $quantity)
    {
    }

    /** @return array<string, string> the fields of the invoice's line that name them */
    public function fields(): array
    {
        return [
            $this->of instanceof AccruedLine ? 'delivery_line' : 'order_line' => (string) $this->of->id,
            'account' => $this->of->accountNumber,
            ...$this->of->codes,
        ];
    }

    /** Delivery and order, or the order that it is to come of. */
    public function words(): string
    {
        return $this->of instanceof AccruedLine
            ? trim($this->of->delivery.('' === $this->of->order ? '' : ' of '.$this->of->order))
            : $this->of->order.', not here yet';
    }
}
