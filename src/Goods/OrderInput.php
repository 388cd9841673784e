<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\App\Parties\Party;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Problem;

/** An order as it was read, with everything that is wrong with it. */
final readonly class OrderInput
{
    /**
     * @param string $number empty for the next one
     * @param array<int, OrderLineInput> $lines under the index of the form's row
     * @param list<Problem> $problems
     */
    public function __construct(
        public ?Party $party,
        public string $number,
        public ?Day $orderedOn,
        public ?Day $wantedBy,
        public string $currency,
        public string $note,
        public array $lines,
        public array $problems,
    ) {
    }

    /** Minor units of its currency. */
    public function amount(): int
    {
        return array_sum(array_map(static fn (OrderLineInput $l): int => $l->amount, $this->lines));
    }
}
