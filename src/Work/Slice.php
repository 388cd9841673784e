<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

/** What one slice of long work did. */
final readonly class Slice
{
    /**
     * @param int  $done how many more are done
     * @param bool $more whether another slice follows
     */
    public function __construct(public int $done, public bool $more)
    {
    }
}
