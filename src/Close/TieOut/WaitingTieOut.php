<?php

declare(strict_types=1);

namespace Nelbix\App\Close\TieOut;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\WaitingLine;
use Nelbix\App\Platform\Waits;

/** Control accounts on which manual entries stand that no open item explains; the tie-out itself finds what else there is. */
final readonly class WaitingTieOut implements Waits
{
    public function __construct(private Connection $db)
    {
    }

    public function lines(Desk $desk): iterable
    {
        if (!$desk->may(Permission::SeeLedger)) {
            return;
        }
        // entry and its reversal cancel; what is left of them is off
        $controls = Chart::controls();
        $off = $this->db->fetchFirstColumn(
            <<<SQL
            SELECT SUM(l.base)
            FROM journal_entry e
            JOIN journal_line l ON l.entry_id = e.id
            JOIN account a ON a.id = l.account_id
            WHERE e.company_id = ? AND e.bypass = 1
                AND a.role IN ($controls)
            GROUP BY l.account_id
            HAVING SUM(l.base) <> 0
            SQL
            ,
            [$desk->id()],
        );

        yield new WaitingLine(
            WaitingLine::BOOKS,
            10,
            'tie_out',
            'control accounts are off by manual entries',
            \count($off),
            array_sum(array_map(static fn (mixed $base): int => abs((int) $base), $off)),
            'tie_out',
            [],
            'Tie out',
        );
    }
}
