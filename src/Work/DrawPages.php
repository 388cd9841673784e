<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

use Nelbix\App\Platform\PageImages;

/** Pages of papers are drawn by the workers, so that no page of the application waits for a file from outside. */
final readonly class DrawPages implements Chore
{
    public function __construct(private PageImages $pages)
    {
    }

    public function do(): bool
    {
        return $this->pages->drawNext();
    }
}
