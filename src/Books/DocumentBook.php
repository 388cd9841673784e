<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\StoresNumbers;
use Nelbix\App\Platform\WordIndex;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * The one writer of documents and their items, sibling of the ledger's: documents, lines, taxes, items, discounts and entries of
 * many in a handful of statements. Their numbers are given last before the commit. Call inside a transaction.
 */
final readonly class DocumentBook implements StoresNumbers
{
    public function __construct(
        private EntityManagerInterface $entities,
        private Bulk $bulk,
        private LedgerWriter $ledger,
        private Numbering $numbering,
        private ClockInterface $clock,
        private WordIndex $words,
    ) {
    }

    /** A new document, to be filled and written; nothing is kept yet. */
    public function begin(
        Actor $actor,
        Side $side,
        DocumentKind $kind,
        DocumentState $state = DocumentState::Posted,
    ): Document {
        $now = $this->clock->now();
        $document = new Document($actor->companyId, $side, $kind, $state, $actor->userId, $now);
        $document->postedAt = DocumentState::Draft === $state ? null : $now;

        return $document;
    }

    public function write(Actor $actor, DocumentDraft $draft): WrittenDocument
    {
        return $this->writeAll($actor, [$draft])[0];
    }

    /**
     * Writes many at once, numbered in their order.
     *
     * @param non-empty-list<DocumentDraft> $drafts
     *
     * @return non-empty-list<WrittenDocument> in the same order
     *
     * @throws Refused when a period is locked
     */
    public function writeAll(Actor $actor, array $drafts): array
    {
        $new = array_map(static fn (DocumentDraft $d): Document => $d->document, $drafts);
        $known = array_values(array_filter($new, static fn (Document $d): bool => null !== $d->id));
        $this->bulk->insert(array_values(array_filter($new, static fn (Document $d): bool => null === $d->id)));
        $written = $lines = $taxes = $items = $discounts = [];
        foreach ($drafts as $draft) {
            $document = $draft->document;
            array_push($lines, ...$draft->lines);
            array_push($taxes, ...$draft->taxes);
            $own = [];
            foreach ($draft->items as $k => $item) {
                $own[] = $items[] = $record = new OpenItemRecord($document, $k + 1, $item);
                foreach ($item->discounts as $d) {
                    $discounts[] = new ItemDiscount($record, $d->through, (string) $d->percent, $d->amount);
                }
            }
            $written[] = $one = new WrittenDocument($document, $own);
            $this->number($one);
        }
        // what else is watched goes first; drafts that are posted are stored together
        $this->bulk->store($known);
        $this->entities->flush();
        foreach ([$lines, $taxes, $items, $discounts] as $records) {
            $this->bulk->insert($records);
        }
        $this->ledger->writeAll($actor, self::orders($drafts));
        $this->words->put($actor->companyId, 'document', self::texts($drafts), false, [] !== $known);

        return $written;
    }

    /**
     * @param non-empty-list<DocumentDraft> $drafts
     *
     * @return array<int, string> what they say, by id
     */
    private static function texts(array $drafts): array
    {
        $texts = [];
        foreach ($drafts as $draft) {
            $texts[$draft->document->id()] = implode(' ', [
                $draft->document->description,
                $draft->document->reference,
                ...array_map(static fn (DocumentLine $l): string => $l->text, $draft->lines),
            ]);
        }

        return $texts;
    }

    public function storeNumbers(array $records): void
    {
        $documents = $items = [];
        foreach ($records as $written) {
            \assert($written instanceof WrittenDocument);
            $documents[$written->document->id()] = [
                'number' => $written->document->number,
                'live_number' => $written->document->liveNumber,
            ];
            foreach ($written->items as $item) {
                $items[$item->id()] = ['number' => $item->number];
            }
        }
        $this->bulk->update('document', $documents);
        if ([] !== $items) {
            $this->bulk->update('open_item', $items);
        }
    }

    /** A number that somebody gave stands at once; the others wait for the end of the transaction. */
    private function number(WrittenDocument $written): void
    {
        $document = $written->document;
        if (null !== $document->number) {
            self::spread($written);

            return;
        }
        $this->numbering->announce(
            $document->companyId,
            $document->kind->prefix($document->side),
            $document->postingDate ?? throw new \LogicException('A document is posted on a day.'),
            $written,
            static function (string $number) use ($written): void {
                $written->document->number = $number;
                self::spread($written);
            },
            $this,
        );
    }

    /** The items of a document carry its number; instalments with their place behind it. */
    private static function spread(WrittenDocument $written): void
    {
        $document = $written->document;
        $document->liveNumber = DocumentState::Posted === $document->state ? $document->number : null;
        $parts = \count($written->items) > 1 && !$document->kind->settlesItself();
        foreach ($written->items as $item) {
            $item->number = $document->number.($parts ? '/'.$item->part : '');
        }
    }

    /**
     * @param non-empty-list<DocumentDraft> $drafts
     *
     * @return list<EntryOrder>
     */
    private static function orders(array $drafts): array
    {
        $orders = [];
        foreach ($drafts as $draft) {
            if (null === $draft->entry || $draft->entry->isEmpty()) {
                continue;
            }
            $sides = array_map(static fn (ItemDraft $i): Side => $i->side, $draft->items);
            $orders[] = new EntryOrder(
                $draft->entry,
                $draft->document->postingDate ?? throw new \LogicException('A document is posted on a day.'),
                static fn (): string => trim($draft->document->number.' '.$draft->after),
                array_values(array_unique([$draft->document->side, ...$sides], \SORT_REGULAR)),
                Source::document($draft->document->id()),
            );
        }

        return $orders;
    }
}
