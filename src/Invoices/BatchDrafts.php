<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\App\Books\Document;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\Side;

/** Drafts of a batch, read as they are posted: their parties are looked up together. */
final readonly class BatchDrafts
{
    public function __construct(private InvoiceReader $reader, private Lookup $lookup)
    {
    }

    /**
     * @param list<Document> $drafts
     *
     * @return ($drafts is non-empty-list<Document> ? non-empty-list<InvoiceToPost> : list<InvoiceToPost>) in their order; the fields of
     *                                                                                                     a draft begin with "draft.N."
     */
    public function toPost(Actor $actor, Side $side, array $drafts): array
    {
        $parties = $this->lookup->parties($actor->companyId, $side, array_map(self::party(...), $drafts));

        return array_map(
            fn (Document $d): InvoiceToPost => new InvoiceToPost(
                $this->reader->read($actor, $side, $d->draftInput ?? [], false, $parties),
                $d->id(),
                'draft.'.$d->id().'.',
                $d,
            ),
            $drafts,
        );
    }

    private static function party(Document $draft): string
    {
        $code = $draft->draftInput['party'] ?? '';

        return \is_scalar($code) ? trim((string) $code) : '';
    }
}
