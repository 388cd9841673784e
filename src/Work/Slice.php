<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

/** What one slice of long work did. */
final readonly class Slice
{
    /**
     * @param int $done how many more are done
     * @param bool $more whether another slice follows
     * @param array<string, mixed>|null $result what came of it, for the page
     */
    public function __construct(public int $done, public bool $more, public ?array $result = null)
    {
    }
}
