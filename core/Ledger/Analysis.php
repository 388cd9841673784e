<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/** The analysis codes of a line, by the identifiers of the application. */
final readonly class Analysis
{
    public function __construct(
        public ?int $costCenter = null,
        public ?int $department = null,
        public ?int $project = null,
    ) {
    }
}
