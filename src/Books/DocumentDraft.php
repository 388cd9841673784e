<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Nelbix\Core\Ledger\JournalDraft;

/** A document as it is going to be posted: itself, its lines and taxes, the items it raises and its entry. */
final readonly class DocumentDraft
{
    /**
     * @param Document $document from DocumentBook::begin, or the draft that is posted; without a number it gets the next one
     * @param list<ItemDraft> $items in order of their parts
     * @param JournalDraft|null $entry nothing to post when null or empty
     * @param list<DocumentLine> $lines
     * @param list<DocumentTax> $taxes
     * @param string $after what the entry's text says behind the document's number
     */
    public function __construct(
        public Document $document,
        public array $items,
        public ?JournalDraft $entry = null,
        public string $after = '',
        public array $lines = [],
        public array $taxes = [],
    ) {
    }
}
