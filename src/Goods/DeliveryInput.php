<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\App\Parties\Party;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Problem;

/** A delivery as it was read, with everything that is wrong with it. Amounts in minor units of $currency. */
final readonly class DeliveryInput
{
    /**
     * @param array<int, DeliveredLine> $lines under the index of the form's row
     * @param string $remark how it came
     * @param list<Problem> $problems
     */
    public function __construct(
        public ?Party $party,
        public ?Day $deliveredOn,
        public string $noteNumber,
        public string $currency,
        public array $lines,
        public array $problems,
        public string $remark = '',
    ) {
    }

    public function amount(): int
    {
        return array_sum(array_map(static fn (DeliveredLine $l): int => $l->amount, $this->lines));
    }

    /** @return list<int> ids of the order lines that it comes for */
    public function orderLines(): array
    {
        $ids = array_map(static fn (DeliveredLine $l): ?int => $l->ordered?->id, $this->lines);

        return array_values(array_unique(array_filter($ids)));
    }
}
