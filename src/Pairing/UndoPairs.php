<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\JournalEntry;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Takes a pair apart, or all that a run paired: their rows are free again, and what was posted for a difference is reversed. */
final readonly class UndoPairs
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private PairingLock $lock,
        private KeepPairs $keep,
        private ReverseDocument $reverse,
        private LedgerWriter $ledger,
        private PeriodGate $periods,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param string $reason needed where a difference was posted
     *
     * @throws Refused
     */
    public function undo(Actor $actor, int $setId, int $pairId, string $reason): void
    {
        $this->transaction->run(function () use ($actor, $setId, $pairId, $reason): void {
            $set = $this->lock->set($actor, $setId);
            $this->lock->mustNotRun($set);
            $pair = $this->lock->pair($set, $pairId);
            $this->takeBack($actor, $pair, $reason);
            $pair->state = PairState::Undone;
            $pair->decidedById = $actor->userId;
            $pair->decidedAt = $this->clock->now();
            $this->keep->free([$pairId]);
            $this->history->note($actor, 'pairing_set', $setId, 'pair undone', mb_substr(trim($reason), 0, 255));
        });
    }

    /**
     * All that a run paired and nobody posted a difference for.
     *
     * @return int how many pairs
     *
     * @throws Refused when a difference of one was posted: undo that pair first
     */
    public function undoRun(Actor $actor, int $setId, int $runId): int
    {
        return $this->transaction->run(function () use ($actor, $setId, $runId): int {
            $set = $this->lock->set($actor, $setId);
            $this->lock->mustNotRun($set);
            $run = $this->entities->find(PairingRun::class, $runId);
            if (null === $run || $run->setId !== $setId || 'undone' === $run->state) {
                throw Refused::because(
                    '',
                    'There is no such run of this set, or it was undone already.',
                    ProblemKind::Unknown,
                );
            }
            $db = $this->entities->getConnection();
            $posted = $db->fetchOne(
                "SELECT COUNT(*) FROM pairing_pair WHERE run_id = ? AND state <> 'undone' ".
                    'AND (entry_id IS NOT NULL OR document_id IS NOT NULL)',
                [$runId],
            );
            if ((int) $posted > 0) {
                throw Refused::because(
                    '',
                    \sprintf(
                        'The difference of %d of its pairs was posted; undo those pairs first, each with its reason.',
                        $posted,
                    ),
                );
            }
            $ids = array_map(
                'intval',
                $db->fetchFirstColumn(
                    "SELECT id FROM pairing_pair WHERE run_id = ? AND state <> 'undone' ORDER BY id FOR UPDATE",
                    [$runId],
                ),
            );
            $this->keep->free($ids);
            $db->executeStatement(
                "UPDATE pairing_pair SET state = 'undone', decided_by_id = ?, decided_at = ? WHERE run_id = ? AND state <> 'undone'",
                [$actor->userId, $this->clock->now()->format('Y-m-d H:i:s'), $runId],
            );
            $run->state = 'undone';
            $this->history->note($actor, 'pairing_set', $setId, 'run undone', \sprintf('%d pairs', \count($ids)));

            return \count($ids);
        });
    }

    private function takeBack(Actor $actor, PairRecord $pair, string $reason): void
    {
        if (null === $pair->documentId && null === $pair->entryId) {
            return;
        }
        if ('' === trim($reason)) {
            throw Refused::because(
                'reason',
                'Say why it is undone; what was posted for its difference is reversed.',
                ProblemKind::Missing,
            );
        }
        $this->lock->mustAdjust($actor, $pair);
        if (null !== $pair->documentId) {
            $this->reverse->reverse($actor, $pair->documentId, $reason);
            // the row of what was posted goes with it
            $this->entities
                ->getConnection()
                ->executeStatement('DELETE FROM pairing_row WHERE pair_id = ? AND document_id = ?', [
                    $pair->id(),
                    $pair->documentId,
                ]);
            $pair->documentId = null;

            return;
        }
        $entry =
            $this->entities->find(JournalEntry::class, (int) $pair->entryId) ??
            throw new \LogicException('The entry is gone.');
        $this->ledger->write(
            $actor,
            new EntryOrder(
                $this->ledger->draftOf($entry->id())->reversed(),
                $this->periods->firstOpen($actor->companyId, $entry->postingDate, []),
                $entry->text.' undone',
                [],
                null,
                $entry->id(),
            ),
        );
        $this->entities
            ->getConnection()
            ->executeStatement(
                "DELETE FROM pairing_row WHERE pair_id = ? AND source IN (SELECT CONCAT('line ', id) FROM journal_line WHERE entry_id = ?)",
                [$pair->id(), $entry->id()],
            );
        $pair->entryId = null;
    }
}
