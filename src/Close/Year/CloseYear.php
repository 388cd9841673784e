<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Year;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\JournalEntry;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\Source;
use Nelbix\App\People\MayDo;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Closes a year: income and expense to retained earnings on its last day, by one entry that is marked as closing. What is posted into the
 * year later is closed by another; each is undone by its reversal, the last one first.
 */
final readonly class CloseYear
{
    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private ProposeYearEnd $propose,
        private LedgerWriter $ledger,
        private BooksDay $booksDay,
        private MayDo $mayDo,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param string $seen digest of the page that was looked at
     *
     * @return string the number of the entry
     *
     * @throws Refused
     */
    public function close(Actor $actor, int $year, string $seen): string
    {
        $entry = $this->transaction->run(function () use ($actor, $year, $seen): JournalEntry {
            $this->mayDo->must($actor, Permission::Control, 'A controller closes the year.');
            // two who close the same year wait for each other
            $this->db->fetchOne(
                'SELECT id FROM period WHERE company_id = ? AND year = ? ORDER BY number DESC LIMIT 1 FOR UPDATE',
                [$actor->companyId, $year],
            );
            $proposed = $this->propose->of($actor->companyId, $actor->baseCurrency, $year);
            if (!$proposed->last->isBefore($this->booksDay->of($actor->companyId))) {
                throw Refused::because(
                    'year',
                    \sprintf('%d ends on %s; it is closed after that day.', $year, $proposed->last->long()),
                );
            }
            $earlier = $this->openEarlier($actor->companyId, $proposed->first);
            if (null !== $earlier) {
                throw Refused::because('year', \sprintf('%d is not closed yet; close it first.', $earlier));
            }
            if ($seen !== $proposed->digest()) {
                throw Refused::because(
                    '',
                    'Something was posted since you looked; look again and close what stands there.',
                );
            }
            if ($proposed->entry->isEmpty()) {
                throw Refused::because('year', \sprintf('Nothing is left to close in %d.', $year), ProblemKind::Taken);
            }
            $this->db->insert('year_end', [
                'company_id' => $actor->companyId,
                'year' => $year,
                'result' => $proposed->result(),
                'created_by_id' => $actor->userId,
                'created_at' => $this->clock->now()->format('Y-m-d H:i:s'),
                'undone_why' => '',
            ]);
            $id = (int) $this->db->lastInsertId();
            $entry = $this->ledger->write(
                $actor,
                new EntryOrder(
                    $proposed->entry,
                    $proposed->last,
                    'Year-end close of '.$year,
                    [],
                    Source::yearEnd($id),
                ),
            );
            $this->db->update('year_end', ['entry_id' => $entry->id()], ['id' => $id]);
            $this->history->note($actor, 'year_end', $id, 'closed the year', (string) $year);

            return $entry;
        });

        return (string) $entry->number;
    }

    /** @throws Refused */
    public function undo(Actor $actor, int $id, string $why): void
    {
        $this->transaction->run(function () use ($actor, $id, $why): void {
            $this->mayDo->must($actor, Permission::Control, 'A controller opens a closed year.');
            if ('' === trim($why)) {
                throw Refused::because(
                    'why',
                    'Say why the close is undone; the history keeps your words.',
                    ProblemKind::Missing,
                );
            }
            $row = $this->db->fetchAssociative(
                'SELECT * FROM year_end WHERE id = ? AND company_id = ? AND undone_at IS NULL FOR UPDATE',
                [$id, $actor->companyId],
            );
            if (false === $row) {
                throw Refused::because('', 'There is no such close, or it was undone already.', ProblemKind::Unknown);
            }
            $later = $this->db->fetchOne(
                'SELECT MAX(year) FROM year_end WHERE company_id = ? AND undone_at IS NULL AND (year > ? OR (year = ? AND id > ?))',
                [$actor->companyId, $row['year'], $row['year'], $id],
            );
            if (null !== $later && false !== $later) {
                throw Refused::because('', \sprintf('A later close, of %s, stands; undo that first.', $later));
            }
            $entry = (int) $row['entry_id'];
            $day = Day::of(
                (string) $this->db->fetchOne('SELECT posting_date FROM journal_entry WHERE id = ?', [$entry]),
            );
            $this->ledger->write(
                $actor,
                new EntryOrder(
                    $this->ledger->draftOf($entry)->reversed(),
                    $day,
                    'Year-end close of '.$row['year'].' undone',
                    [],
                    Source::yearEnd($id),
                    $entry,
                ),
            );
            $this->db->update(
                'year_end',
                [
                    'undone_by_id' => $actor->userId,
                    'undone_at' => $this->clock->now()->format('Y-m-d H:i:s'),
                    'undone_why' => mb_substr(trim($why), 0, 255),
                ],
                ['id' => $id],
            );
            $this->history->note($actor, 'year_end', $id, 'close undone', mb_substr(trim($why), 0, 255));
        });
    }

    /** The year before, when its income and expense were not closed; null when they were, or nothing was ever posted there. */
    private function openEarlier(int $companyId, Day $first): ?int
    {
        $open = $this->db->fetchOne(
            <<<'SQL'
            SELECT 1
            FROM account a
            JOIN journal_line l ON l.account_id = a.id AND l.posting_date < ?
            WHERE a.company_id = ? AND a.type IN ('income', 'expense')
            GROUP BY a.id
            HAVING SUM(l.base) <> 0
            LIMIT 1
            SQL
            ,
            [$first->iso(), $companyId],
        );

        return false === $open
            ? null
            : (int) $this->db->fetchOne(
                'SELECT year FROM period WHERE company_id = ? AND last_day < ? ORDER BY last_day DESC LIMIT 1',
                [$companyId, $first->iso()],
            );
    }
}
