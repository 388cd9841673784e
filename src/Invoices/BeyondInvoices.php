<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\App\Books\Document;
use Nelbix\App\Platform\Actor;

/** What the page of a document shows that invoices do not know of: what may become of its open items, and the claim that it made. */
interface BeyondInvoices
{
    /** @return list<array{item: int, number: string, action: string, words: string}> */
    public function actions(Actor $actor, Document $document): array;

    /** @return array<string, mixed>|null */
    public function claim(Document $document): ?array;
}
