<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\LotGuard;
use Nelbix\App\Books\LotOf;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\JournalEntry;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\People\MayDo;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Reverses an entry by hand, once, on its own day while that is open, else on the first later one; or on a day that is named. */
final readonly class ReverseManualEntry
{
    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private LedgerWriter $ledger,
        private PeriodGate $periods,
        private ManualEntryBook $book,
        private MayDo $mayDo,
        private History $history,
        private LotGuard $lots,
    ) {
    }

    /**
     * @return string the number of the reversal
     *
     * @throws Refused
     */
    public function reverse(Actor $actor, int $entryId, string $why, ?Day $on = null): string
    {
        $entry = $this->transaction->run(function () use ($actor, $entryId, $why, $on): JournalEntry {
            if ('' === trim($why)) {
                throw Refused::because(
                    'why',
                    'Say why it is reversed; the history keeps your words.',
                    ProblemKind::Missing,
                );
            }
            $row = $this->db->fetchAssociative(
                <<<'SQL'
                SELECT number, posting_date, bypass, source_kind, reverses_id
                FROM journal_entry
                WHERE id = ? AND company_id = ?
                FOR UPDATE
                SQL
                ,
                [$entryId, $actor->companyId],
            );
            if (false === $row) {
                throw Refused::because('', 'There is no such entry in this company.', ProblemKind::Unknown);
            }
            if (null !== $row['source_kind']) {
                throw Refused::because('', 'This entry belongs to a record; reverse or undo that instead.');
            }
            $by = $this->db->fetchOne('SELECT number FROM journal_entry WHERE reverses_id = ?', [$entryId]);
            if (false !== $by) {
                throw Refused::because('', \sprintf('%s reversed it already.', $by), ProblemKind::Taken);
            }
            if (null !== $row['reverses_id']) {
                throw Refused::because('', 'This entry reverses another one; enter that one anew instead.');
            }
            $this->lots->mustBeThrough(LotOf::Entries, $this->byHand($entryId), (string) $row['number']);
            $bypass = (bool) $row['bypass'];
            if ($bypass) {
                $this->mayDo->must(
                    $actor,
                    Permission::Control,
                    'An entry that bypasses a party ledger is reversed by a controller.',
                );
            }
            $this->mustBeWithin($actor, $entryId);
            $its = Day::of((string) $row['posting_date']);
            if (null !== $on && $on->isBefore($its)) {
                throw Refused::because('day', \sprintf('It cannot be reversed before its own day, %s.', $its->long()));
            }
            $day = $on ?? $this->periods->firstOpen($actor->companyId, $its, []);
            $reversal = $this->ledger->write(
                $actor,
                new EntryOrder(
                    $this->ledger->draftOf($entryId)->reversed(),
                    $day,
                    $row['number'].' reversed: '.mb_substr(trim($why), 0, 200),
                    [],
                    reversesId: $entryId,
                    bypass: $bypass,
                ),
            );
            $this->history->note($actor, 'entry', $entryId, 'reversed', mb_substr(trim($why), 0, 255));

            return $reversal;
        });

        return (string) $entry->number;
    }

    /** @return list<int> the entry by hand that it was posted from */
    private function byHand(int $entryId): array
    {
        return array_map(
            'intval',
            $this->db->fetchFirstColumn('SELECT id FROM manual_entry WHERE entry_id = ?', [$entryId]),
        );
    }

    /** @throws Refused for a clerk who would take back alone what needed somebody else's approval */
    private function mustBeWithin(Actor $actor, int $entryId): void
    {
        $amount = (int) $this->db->fetchOne('SELECT SUM(GREATEST(base, 0)) FROM journal_line WHERE entry_id = ?', [
            $entryId,
        ]);
        if ($this->book->isOverLimit($actor, $amount)) {
            $this->mayDo->must($actor, Permission::Control, 'This entry is above the limit; a controller reverses it.');
        }
    }
}
