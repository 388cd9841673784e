<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

/** A document that was written, with its items in order of their parts; all have ids, and their numbers once the commit is near. */
final readonly class WrittenDocument
{
    /** @param list<OpenItemRecord> $items */
    public function __construct(public Document $document, public array $items)
    {
    }
}
