<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\Core\Matching\Over;

/** One reason why an invoice does not fit what was ordered and received. */
final readonly class Mismatch
{
    /**
     * @param int|null $line key of the invoice's line; null for the invoice as a whole
     * @param string $said in words, with its figures
     * @param int|null $orderedBy who ordered, and accepts or refuses
     */
    public function __construct(public ?int $line, public Over $over, public string $said, public ?int $orderedBy)
    {
    }

    /** @param list<self> $all */
    public static function summary(array $all): string
    {
        return mb_strimwidth(implode('; ', array_map(static fn (self $m): string => $m->said, $all)), 0, 255, '…');
    }
}
