<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** The tax that stands on a prepayment item: all of it, and what is not given back yet. Minor units of its currency and of base. */
#[Exclude]
final readonly class TaxOfPrepayment
{
    public function __construct(
        public int $item,
        public int $outputAccount,
        public int $prepaidAccount,
        public int $tax,
        public int $base,
        public int $left,
        public int $leftBase,
    ) {
    }

    public function less(int $tax, int $base): self
    {
        return new self(
            ...['left' => $this->left - $tax, 'leftBase' => $this->leftBase - $base] + get_object_vars($this),
        );
    }
}
