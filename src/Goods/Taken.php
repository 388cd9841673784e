<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\Core\Matching\Accrued;

/** A part of a delivery line that is taken out of received-not-invoiced, as it was worked out and shown. */
final readonly class Taken
{
    /**
     * @param int $line of the delivery
     * @param Accrued $part its quantity, and what that stands for
     * @param int|null $position of the document's line that invoices it
     * @param int|null $variance account of what is invoiced more or less than accrued
     */
    public function __construct(
        public int $line,
        public Accrued $part,
        public ?int $position = null,
        public ?int $variance = null,
    ) {
    }
}
