<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** A debt that was written off: what of it, and what of that came after all. Minor units of its currency, positive. */
#[Exclude]
final readonly class WrittenOff
{
    /** @param bool $fromAllowance whether the allowance bore it, and not the expense */
    public function __construct(
        public int $adjustment,
        public int $item,
        public int $party,
        public string $currency,
        public string $number,
        public string $day,
        public string $reason,
        public int $amount,
        public int $recovered,
        public bool $fromAllowance,
    ) {
    }

    public function left(): int
    {
        return max(0, $this->amount - $this->recovered);
    }
}
