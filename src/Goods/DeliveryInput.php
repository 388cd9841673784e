<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\App\Parties\Party;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Analysis;
use Nelbix\Core\Problem;

/** A delivery as it was read, with everything that is wrong with it. Amounts in minor units of $currency. */
final readonly class DeliveryInput
{
    /**
     * @param list<array{account: int, text: string, quantity: BigDecimal, price: BigDecimal, amount: int, analysis: Analysis}> $lines
     * @param list<Problem> $problems
     */
    public function __construct(
        public ?Party $party,
        public ?Day $deliveredOn,
        public string $noteNumber,
        public string $currency,
        public array $lines,
        public array $problems,
    ) {
    }

    public function amount(): int
    {
        return array_sum(array_column($this->lines, 'amount'));
    }
}
