<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Brick\Math\BigDecimal;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\DependencyInjection\Attribute\AutowireIterator;

/** Writes the opposite of a posted document, with its entry and items, which settle with the original's. Call inside a transaction. */
final readonly class OppositeDocument
{
    private const COPIED = [
        'theirNumber',
        'theirKey',
        'partyId',
        'documentDate',
        'termId',
        'currency',
        'rate',
        'bankAccountId',
        'onHandAccountId',
        'method',
        'reference',
    ];

    private const OPPOSITE = ['net', 'tax', 'total', 'totalBase', 'discountBase', 'bankBase', 'bankAmount'];

    /** @param iterable<TakenBack> $areas */
    public function __construct(
        private EntityManagerInterface $entities,
        private DocumentBook $documents,
        private SettlementBook $book,
        private LedgerWriter $ledger,
        private History $history,
        #[AutowireIterator(TakenBack::class)] private iterable $areas,
    ) {
    }

    /** @return list<Side> the party ledgers that the document's items stand in */
    public function sides(Document $document): array
    {
        return $document->kind->settlesItself()
            ? array_map(
                Side::from(...),
                $this->entities
                    ->getConnection()
                    ->fetchFirstColumn('SELECT DISTINCT side FROM open_item WHERE document_id = ?', [$document->id]),
            )
            : [$document->side];
    }

    /** The latest of the day and of what the areas say before which nothing of it is taken back. */
    public function notBefore(Document $document, Day $day): Day
    {
        foreach ($this->areas as $area) {
            $day = Day::latest($day, $area->notBefore($document) ?? $day);
        }

        return $day;
    }

    /** @return int the opposite document's id */
    public function write(Actor $actor, Document $document, Day $day, string $reason, HowTakenBack $how): int
    {
        $reversal = $this->opposite($actor, $document, $day, $reason);
        /** @var list<OpenItemRecord> $items */
        $items = $this->entities
            ->getRepository(OpenItemRecord::class)
            ->findBy(['document' => $document], ['part' => 'ASC']);
        $opposites = $this->documents->write(
            $actor,
            new DocumentDraft(
                $reversal,
                array_map(
                    static fn (OpenItemRecord $i): ItemDraft => new ItemDraft(
                        $i->side,
                        $i->partyId,
                        $i->accountId,
                        -$i->original,
                        -$i->originalBase,
                        $day,
                        kind: $i->kind,
                    ),
                    $items,
                ),
            ),
        )->items;
        $document->state = DocumentState::Reversed;
        $document->liveKey = $document->liveNumber = null;
        $document->reversedById = $reversal->id;
        $document->takenBack = $how->value;
        $this->entities->flush();
        $this->reverseEntries($actor, $document, $reversal, $day, $how->value);
        foreach ($items as $k => $item) {
            if ($item->open !== $item->original) {
                continue; // what cannot be undone leaves the opposite item open
            }
            $this->book->settle(
                $actor,
                new SettlementRequest(
                    $item->side,
                    [
                        new PlacementRequest($item->id(), $item->open),
                        new PlacementRequest($opposites[$k]->id(), -$item->open),
                    ],
                    [],
                    $day,
                    BigDecimal::of($document->rate),
                    $reversal,
                    null,
                    $how->value,
                ),
            );
        }
        foreach ($this->areas as $area) {
            $area->takeBack($actor, $document, $day);
        }
        $this->history->note($actor, 'document', $document->id(), $how->value, $reason);

        return $reversal->id();
    }

    private function opposite(Actor $actor, Document $document, Day $day, string $reason): Document
    {
        $reversal = $this->documents->begin($actor, $document->side, $document->kind, DocumentState::Reversed);
        foreach (self::COPIED as $copied) {
            $reversal->{$copied} = $document->{$copied};
        }
        foreach (self::OPPOSITE as $opposite) {
            $reversal->{$opposite} = -$document->{$opposite};
        }
        $reversal->postingDate = $reversal->dueDate = $day;
        $reversal->reversesId = $document->id;
        $reversal->description = mb_substr($reason, 0, 255);

        return $reversal;
    }

    private function reverseEntries(Actor $actor, Document $document, Document $reversal, Day $day, string $word): void
    {
        $entries = $this->entities
            ->getConnection()
            ->fetchFirstColumn(
                "SELECT id FROM journal_entry WHERE source_kind = 'document' AND source_id = ? ORDER BY id",
                [$document->id],
            );
        foreach ($entries as $entry) {
            $this->ledger->write(
                $actor,
                new EntryOrder(
                    $this->ledger->draftOf((int) $entry)->reversed(),
                    $day,
                    static fn (): string => \sprintf('%s: %s %s', $reversal->number, $document->number, $word),
                    $this->sides($document),
                    Source::document($reversal->id()),
                    (int) $entry,
                ),
            );
        }
    }
}
