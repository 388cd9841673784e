<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Period;

use Nelbix\App\Platform\Permission;

/** One thing that may stand in the way of closing a period. */
final readonly class ClosingGate
{
    /**
     * @param Permission $sees what one needs to follow the way in
     * @param string $text what stands there, after its count: "drafts are not posted"
     * @param int|null $amount base minor units; null where an amount means nothing
     * @param array<string, string> $parameters of the route, besides the company
     */
    public function __construct(
        public string $key,
        public string $text,
        public string $clear,
        public int $count,
        public ?int $amount,
        public string $route,
        public Permission $sees,
        public array $parameters = [],
    ) {
    }
}
