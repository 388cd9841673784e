<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Ubl;

use Nelbix\Core\Calendar\Day;

/** A purchase order as UBL 2.1 has it. */
final readonly class ElectronicOrder
{
    /** @param non-empty-list<array{text: string, quantity: string, unit: string, price: string, wantedBy: Day|null}> $lines */
    public function __construct(
        public string $number,
        public Day $date,
        public string $currency,
        public string $sellerName,
        public string $sellerTaxNumber,
        public string $note,
        public ?Day $wantedBy,
        public array $lines,
    ) {
    }
}
