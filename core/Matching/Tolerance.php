<?php

declare(strict_types=1);

namespace Nelbix\Core\Matching;

use Brick\Math\BigDecimal;

/**
 * How far something may go above what was agreed: a percent of it and a fixed amount, of which the narrower holds. Only what goes
 * against the company counts; less is never over. Source: rules.md, Matching.
 */
final readonly class Tolerance
{
    /**
     * @param BigDecimal|null $percent of what was agreed; null when there is no such bound
     * @param BigDecimal|null $fixed in the unit of what is compared; null when there is no such bound
     */
    public function __construct(public ?BigDecimal $percent, public ?BigDecimal $fixed)
    {
    }

    /** What may come on top of what was agreed; null when there is no bound at all. */
    public function most(BigDecimal $agreed): ?BigDecimal
    {
        $bounds = array_filter([
            null === $this->percent ? null : $agreed->multipliedBy($this->percent)->withPointMovedLeft(2),
            $this->fixed,
        ]);

        return [] === $bounds ? null : BigDecimal::min(...$bounds);
    }

    public function allows(BigDecimal $agreed, BigDecimal $actual): bool
    {
        $most = $this->most($agreed);

        return null === $most || $actual->minus($agreed)->isLessThanOrEqualTo($most);
    }

    /** A vendor's own bounds take the place of the company's, each by itself. */
    public function overriddenBy(self $own): self
    {
        return new self($own->percent ?? $this->percent, $own->fixed ?? $this->fixed);
    }
}
