<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * Reverses a posted document: an opposite document, entry and items, which settle with the original's. A mistake goes on
 * the original date where it is open; an event (a void or a bounce) on its own day, undoing what the money settled.
 */
final readonly class ReverseDocument
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private SettlementBook $book,
        private ItemLocks $items,
        private StandingSettlements $standing,
        private DocumentChecks $checks,
        private OppositeDocument $opposite,
        private MoneyOnHand $onHand,
        private PeriodGate $periods,
        private Settings $settings,
        private BooksDay $booksDay,
    ) {
    }

    /**
     * A mistake: refused while another settlement stands, with the list of what to undo first.
     *
     * @param bool $replaced it is put right: what is posted instead says what was wrong
     *
     * @return int the reversal's id
     *
     * @throws Refused
     */
    public function reverse(Actor $actor, int $documentId, string $reason, bool $replaced = false): int
    {
        if (!$replaced) {
            self::mustSayWhy($reason, 'Say why it is reversed; the history keeps your words.');
        }

        return $this->transaction->run(function () use ($actor, $documentId, $reason): int {
            $document = $this->locked($actor, $documentId);
            if ($document->kind->isTransfer()) {
                $this->undoTransfer($actor, $document);
            } elseif ($document->kind->settlesItself()) {
                $this->undoOwn($actor, $document, null);
            }
            $this->standing->mustBeNone($document);
            $this->checks->giveUp($documentId, $reason);
            $this->onHand->mustNotBeDeposited($document);
            $from =
                'original' === $this->settings->of($actor->companyId)->values['reversal_date']
                    ? $document->postingDate
                    : $this->booksDay->of($actor->companyId);
            $day = $this->periods->firstOpen(
                $actor->companyId,
                $this->opposite->notBefore(
                    $document,
                    $this->notBefore($documentId, $from ?? $this->booksDay->of($actor->companyId)),
                ),
                $this->opposite->sides($document),
            );

            return $this->opposite->write($actor, $document, $day, $reason, HowTakenBack::Reversed);
        });
    }

    /** Nobody's words are put into the history but the person's own. */
    private static function mustSayWhy(string $reason, string $else): void
    {
        if ('' === trim($reason)) {
            throw Refused::because('reason', $else, ProblemKind::Missing);
        }
    }

    /**
     * An event: a check voided, a receipt bounced, a transfer returned. Undoes on that day every settlement the money took part in.
     *
     * @param bool $bankSaid the bank gives the money back, or says that it never took it
     *
     * @return int the opposite document's id
     *
     * @throws Refused
     */
    public function event(
        Actor $actor,
        int $documentId,
        Day $day,
        HowTakenBack $how,
        string $reason,
        bool $bankSaid = false,
    ): int {
        self::mustSayWhy($reason, 'Say what happened to the money; the history keeps your words.');

        return $this->transaction->run(function () use ($actor, $documentId, $day, $how, $reason, $bankSaid): int {
            $document = $this->locked($actor, $documentId);
            if (!$document->kind->isMoney()) {
                throw Refused::because('', 'Only money can be voided or bounce; reverse the document instead.');
            }
            if (null !== $document->postingDate && $day->isBefore($document->postingDate)) {
                throw Refused::because(
                    'date',
                    \sprintf('The money moved on %s; this cannot be dated before.', $document->postingDate->long()),
                );
            }
            $this->undoStanding($actor, $documentId, $day, $reason);
            $this->checks->giveUp($documentId, $reason, $bankSaid);
            $this->onHand->takeBack($actor, $document, $day, $how->value);
            if ($day->isBefore($this->notBefore($documentId, $day))) {
                throw Refused::because(
                    'date',
                    \sprintf(
                        'What this money settled was opened again on %s; date it then or later.',
                        $this->notBefore($documentId, $day)->long(),
                    ),
                );
            }

            return $this->opposite->write($actor, $document, $day, $reason, $how);
        });
    }

    /** What the money settled is opened again; what carried it on is withdrawn. */
    private function undoStanding(Actor $actor, int $documentId, Day $day, string $reason): void
    {
        foreach ($this->standing->of($documentId) as $settlement) {
            if (null === $settlement['transfer_id']) {
                $this->book->undo($actor, (int) $settlement['id'], $day);
            } else {
                $this->withdraw($actor, (int) $settlement['transfer_id'], $day, $reason);
            }
        }
    }

    /**
     * The money is gone, so a refund of it that nobody has paid yet is withdrawn, also out of a run, which cannot be posted with it
     * then. One that was paid stands, and leaves the opposite item of the money open.
     */
    private function withdraw(Actor $actor, int $transferId, Day $day, string $reason): void
    {
        $transfer =
            $this->entities->find(Document::class, $transferId) ?? throw new \LogicException('The transfer is gone.');
        $items = array_map(
            'intval',
            $this->entities
                ->getConnection()
                ->fetchFirstColumn('SELECT id FROM open_item WHERE document_id = ? ORDER BY part', [$transferId]),
        );
        if ($transfer->kind->carriesMoney()) {
            $this->undoStanding($actor, $transferId, $day, $reason);
            $this->entities->flush();
        }
        $records = $this->items->lock($actor, $items);
        foreach ($records as $record) {
            if ($record->part > 1 && $record->open !== $record->original) {
                return;
            }
        }
        foreach ($records as $record) {
            $record->reserve(null);
        }
        $this->entities->flush();
        $this->undoTransfer($actor, $transfer, $day);
        $this->opposite->write($actor, $transfer, $day, $reason, HowTakenBack::Withdrawn);
    }

    /** The day, or the latest undo of the document's items when that is later. */
    private function notBefore(int $documentId, Day $day): Day
    {
        $items = array_map(
            'intval',
            $this->entities
                ->getConnection()
                ->fetchFirstColumn('SELECT id FROM open_item WHERE document_id = ?', [$documentId]),
        );

        return Day::latest($day, ...array_values($this->items->lastUndone($items)));
    }

    /** @throws Refused once the item that the transfer made for later was touched */
    private function undoTransfer(Actor $actor, Document $document, ?Day $on = null): void
    {
        $touched = $this->entities->getConnection()->fetchAssociative(
            <<<'SQL'
            SELECT i.number, i.reserved_by_id, i.reserved_as
            FROM open_item i
            WHERE i.document_id = ? AND i.part > 1 AND (i.open <> i.original OR i.reserved_by_id IS NOT NULL)
            LIMIT 1
            SQL
            ,
            [$document->id],
        );
        if (false !== $touched) {
            throw Refused::because(
                '',
                null === $touched['reserved_by_id']
                    ? \sprintf('%s is paid or settled by now; undo that first.', $touched['number'])
                    : (new Reservation((int) $touched['reserved_by_id'], (string) $touched['reserved_as']))->refusal(
                        (string) $touched['number'],
                    ),
            );
        }
        $this->undoOwn($actor, $document, $on);
    }

    /** The settlements that the document made itself stand and fall with it. */
    private function undoOwn(Actor $actor, Document $document, ?Day $on): void
    {
        foreach (
            $this->entities
                ->getConnection()
                ->fetchFirstColumn('SELECT id FROM settlement WHERE document_id = ? AND undone_on IS NULL', [
                    $document->id,
                ]) as $settlement
        ) {
            $this->book->undo($actor, (int) $settlement, $on);
        }
    }

    private function locked(Actor $actor, int $documentId): Document
    {
        $ids = array_map(
            'intval',
            $this->entities
                ->getConnection()
                ->fetchFirstColumn('SELECT id FROM open_item WHERE document_id = ?', [$documentId]),
        );
        $this->items->lock($actor, $ids);
        $document = $this->entities->find(Document::class, $documentId, LockMode::PESSIMISTIC_WRITE);
        if (null === $document || $document->companyId !== $actor->companyId) {
            throw Refused::because('', 'There is no such document in this company.', ProblemKind::Unknown);
        }
        $this->entities->refresh($document, LockMode::PESSIMISTIC_WRITE);
        if (DocumentState::Posted !== $document->state || null !== $document->reversesId) {
            throw Refused::because(
                '',
                \sprintf('%s is not posted or was already reversed.', $document->number ?? 'The draft'),
            );
        }

        return $document;
    }
}
