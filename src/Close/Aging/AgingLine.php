<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Aging;

use Nelbix\Core\Aging\AgingRow;

/** A line of the aging as a page shows it. */
final readonly class AgingLine
{
    /**
     * @param string $code what it is sorted by
     * @param string $currency of its amounts
     */
    public function __construct(
        public string $key,
        public string $code,
        public string $name,
        public string $currency,
        public AgingRow $row,
    ) {
    }
}
