<?php

declare(strict_types=1);

namespace Nelbix\App\Documents;

use Nelbix\Core\Ledger\LineKind;

/** A line as it was entered. Amount in minor units of the document's currency, negative for an allowance; gross under an inclusive tax code; what the goods cost in base currency. */
final readonly class LineInput
{
    public function __construct(
        public int $accountId,
        public int $amount,
        public ?int $taxCodeId = null,
        public string $text = '',
        public ?int $costCenterId = null,
        public ?int $departmentId = null,
        public ?int $projectId = null,
        public ?string $quantity = null,
        public ?string $price = null,
        public ?int $cost = null,
        public LineKind $kind = LineKind::Line,
    ) {
    }
}
