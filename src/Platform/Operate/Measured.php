<?php

declare(strict_types=1);

namespace Nelbix\App\Platform\Operate;

/** A number for an operator. */
final readonly class Measured
{
    public const COUNTER = 'counter';
    public const GAUGE = 'gauge';

    /**
     * @param string $name such as jobs_waiting; the same name may come again with other labels
     * @param string $help what it counts, in one sentence
     * @param string $type COUNTER for what only rises
     * @param array<string, string> $labels
     */
    public function __construct(
        public string $name,
        public string $help,
        public string $type,
        public int|float $value,
        public array $labels = [],
    ) {
    }
}
