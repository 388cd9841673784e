<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\App\Books\Document;

/** An invoice that is to be posted, alone or among many. */
final readonly class InvoiceToPost
{
    /**
     * @param int|null $draftId the draft this was, which becomes the document
     * @param int|null $version of the draft on the page that it is posted from; null when there was no page
     * @param Document|null $locked the same, when it was read under its lock already
     * @param string $prefix put before the fields of its problems, so that whoever posts many knows whose they are
     */
    public function __construct(
        public InvoiceInput $input,
        public ?int $draftId = null,
        public string $prefix = '',
        public ?Document $locked = null,
        public ?int $version = null,
    ) {
    }
}
