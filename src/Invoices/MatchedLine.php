<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Nelbix\App\Goods\AccruedLine;
use Nelbix\Core\Ledger\Cleared;
use Nelbix\Core\Matching\Accrued;
use Nelbix\Core\Money\Currency;

/** A line of an invoice beside the delivered goods that it takes. */
final readonly class MatchedLine extends OrderedGoods
{
    /** @param Accrued $part what it takes of them */
    public function __construct(public AccruedLine $goods, public Accrued $part, public Cleared $cleared)
    {
        parent::__construct(
            '' === $goods->text ? $goods->delivery : $goods->text,
            $goods->delivery,
            $part->quantity,
            $goods->agreed,
            $goods->orderLine,
            $goods->ordered,
            $goods->invoiced,
            $goods->orderedBy,
            Currency::of($goods->currency),
        );
    }

    public function price(): BigDecimal
    {
        return $this->goods->agreed ?? $this->goods->price;
    }

    public function received(): bool
    {
        return true;
    }

    /** What was accrued is what was agreed of goods that nobody ordered. */
    public function worth(): int
    {
        return null === $this->goods->agreed ? $this->part->amount : parent::worth();
    }
}
