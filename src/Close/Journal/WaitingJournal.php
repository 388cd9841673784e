<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\WaitingLine;
use Nelbix\App\Platform\Waits;

/** Entries by hand that are not posted: drafts of who enters them, and what waits for a decision. */
final readonly class WaitingJournal implements Waits
{
    public function __construct(private Connection $db)
    {
    }

    public function lines(Desk $desk): iterable
    {
        $decides = $desk->may(Permission::Approve) || $desk->may(Permission::Control);
        if (!$decides && !$desk->may(Permission::EnterJournal)) {
            return;
        }
        $rows = $this->db->fetchAllAssociativeIndexed(
            <<<'SQL'
            SELECT state, COUNT(*) AS n, SUM(amount) AS amount
            FROM manual_entry
            WHERE company_id = ? AND state IN ('draft', 'waiting')
            GROUP BY state
            SQL
            ,
            [$desk->id()],
        );
        if ($decides) {
            yield $this->line(
                $rows['waiting'] ?? [],
                11,
                'journal_waiting',
                'manual entries wait for a decision',
                'Decide',
            );
        }
        if ($desk->may(Permission::EnterJournal)) {
            yield $this->line($rows['draft'] ?? [], 12, 'journal_drafts', 'entry drafts wait', 'Post');
        }
    }

    /** @param array<string, mixed> $row */
    private function line(array $row, int $place, string $key, string $text, string $do): WaitingLine
    {
        return new WaitingLine(
            WaitingLine::BOOKS,
            $place,
            $key,
            $text,
            (int) ($row['n'] ?? 0),
            (int) ($row['amount'] ?? 0),
            'journal',
            ['show' => 'open'],
            $do,
        );
    }
}
