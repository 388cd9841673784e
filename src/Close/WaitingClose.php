<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\WaitingLine;
use Nelbix\App\Platform\Waits;
use Psr\Clock\ClockInterface;

/**
 * Control accounts on which manual entries stand that no open item explains (the tie-out itself finds what else there is), and manual
 * entries that are not posted: drafts, and what waits for a decision. For a controller also files of entries and settlements, and long
 * work, that are not through, and for how long.
 */
final readonly class WaitingClose implements Waits
{
    public function __construct(private Connection $db, private ClockInterface $clock)
    {
    }

    public function lines(Desk $desk): iterable
    {
        $sees = $desk->may(Permission::SeeLedger);
        $decides = $desk->may(Permission::Approve) || $desk->may(Permission::Control);
        $enters = $desk->may(Permission::EnterJournal);
        if (!$sees && !$decides && !$enters) {
            return;
        }
        $controls = $desk->may(Permission::Control);
        // entry and its reversal cancel; what is left of them is off
        $accounts = Chart::controls();
        $rows = $this->db->fetchAllAssociativeIndexed(
            <<<SQL
            SELECT 'off' AS what, COUNT(*) AS n, SUM(ABS(base)) AS amount
            FROM (
                SELECT SUM(l.base) AS base
                FROM journal_entry e
                JOIN journal_line l ON l.entry_id = e.id
                JOIN account a ON a.id = l.account_id
                WHERE e.company_id = :company AND e.bypass = 1
                    AND a.role IN ($accounts)
                GROUP BY l.account_id
                HAVING SUM(l.base) <> 0
            ) o
            UNION ALL
            SELECT state, COUNT(*), SUM(amount)
            FROM manual_entry
            WHERE company_id = :company AND state IN ('draft', 'waiting')
            GROUP BY state
            UNION ALL
            SELECT 'long_work', COUNT(*), TIMESTAMPDIFF(SECOND, MIN(created_at), :now)
            FROM job
            WHERE company_id = :company AND ended_at IS NULL
            UNION ALL
            SELECT 'lots', COUNT(*), 0
            FROM posting_lot
            WHERE company_id = :company AND ended_at IS NULL AND side IS NULL
            SQL
            ,
            ['company' => $desk->id(), 'now' => $this->clock->now()->format('Y-m-d H:i:s')],
        );
        foreach (
            [
                [$sees, 'off', 'tie_out', 'control accounts are off by manual entries', 'tie_out', [], 'Tie out'],
                [$decides, 'waiting', 'journal_waiting', 'manual entries wait for a decision', 'journal', [], 'Decide'],
                [$enters, 'draft', 'journal_drafts', 'entry drafts wait', 'journal', [], 'Post'],
                [$controls, 'lots', 'lots', 'ledger files are not through', 'import', [], 'Go on'],
            ] as $k => [$may, $what, $key, $text, $route, $parameters, $do]
        ) {
            if ($may) {
                yield new WaitingLine(
                    WaitingLine::BOOKS,
                    10 + $k,
                    $key,
                    $text,
                    (int) ($rows[$what]['n'] ?? 0),
                    (int) ($rows[$what]['amount'] ?? 0),
                    $route,
                    $parameters,
                    $do,
                );
            }
        }
        if ($controls) {
            $age = (int) ($rows['long_work']['amount'] ?? 0);
            yield new WaitingLine(
                WaitingLine::BOOKS,
                90,
                'long_work',
                \sprintf(
                    'long jobs are not through, the oldest for %s',
                    $age < 120 ? $age.' s' : intdiv($age, 60).' min',
                ),
                (int) ($rows['long_work']['n'] ?? 0),
                0,
                'work',
                [],
                'See how far',
            );
        }
    }
}
