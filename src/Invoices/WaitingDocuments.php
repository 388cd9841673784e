<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\WaitingLine;
use Nelbix\App\Platform\Waits;
use Nelbix\Core\Ledger\Side;

/** Documents and items that somebody has to do something about, and tasks from colleagues. */
final readonly class WaitingDocuments implements Waits
{
    /**
     * By side and name: place, what waits, route, its parameters, what one does.
     *
     * @var array<string, array<string, array{int, string, string, array<string, string>, string}>>
     */
    private const LINES = [
        'payables' => [
            'overdue' => [20, 'vendor items are overdue', 'items', ['only' => 'overdue'], 'Look through them'],
            'awaiting' => [50, 'vendor documents await approval', 'documents', ['state' => 'awaiting'], 'Decide'],
            'refused' => [60, 'vendor documents were refused', 'documents', ['state' => 'awaiting'], 'Mend'],
            'held' => [70, 'vendor invoices are held', 'documents', ['state' => 'held'], 'See why'],
            'drafts' => [90, 'vendor drafts wait', 'documents', ['state' => 'draft'], 'Go on'],
            'batches' => [100, 'vendor batches are open', 'batches', [], 'Go on'],
            'recurring' => [110, 'recurring vendor documents are due', 'recurring', [], 'Prepare'],
            'lots' => [120, 'vendor files are not through', 'import', [], 'Go on'],
        ],
        'receivables' => [
            'overdue' => [20, 'customer items are overdue', 'items', ['only' => 'overdue'], 'Look through them'],
            'held' => [70, 'customer documents are held', 'documents', ['state' => 'held'], 'See why'],
            'drafts' => [90, 'customer drafts wait', 'documents', ['state' => 'draft'], 'Go on'],
            'batches' => [100, 'customer batches are open', 'batches', [], 'Go on'],
            'recurring' => [110, 'recurring customer documents are due', 'recurring', [], 'Prepare'],
            'lots' => [120, 'customer files are not through', 'import', [], 'Go on'],
        ],
    ];

    public function __construct(private Connection $db)
    {
    }

    public function lines(Desk $desk): iterable
    {
        yield from $this->ofPerson($desk);
        $found = $this->found($desk);
        foreach (self::LINES as $side => $lines) {
            if (!$desk->sees(Side::from($side))) {
                continue;
            }
            foreach ($lines as $name => [$place, $text, $route, $parameters, $do]) {
                [$count, $amount] = $found[$side][$name] ?? [0, 0];
                yield new WaitingLine(
                    'payables' === $side ? WaitingLine::PAYABLES : WaitingLine::RECEIVABLES,
                    $place,
                    $name.'_'.$side,
                    $text,
                    $count,
                    $amount,
                    $route,
                    ['side' => $side, ...$parameters],
                    $do,
                );
            }
        }
    }

    /** @return iterable<WaitingLine> tasks from colleagues, and invoices that do not fit what the person ordered, or may approve */
    private function ofPerson(Desk $desk): iterable
    {
        $sql = <<<'SQL'
        SELECT 'tasks', COUNT(*), COALESCE(SUM(d.total_base), 0)
        FROM note t
        LEFT JOIN document d ON d.id = t.document_id
        WHERE t.company_id = :company AND t.for_user_id = :user AND t.done_at IS NULL
        SQL;
        if ($desk->may(Permission::ReleaseMatches)) {
            $sql .= ' UNION ALL '.MatchQuery::waits(!$desk->may(Permission::Approve));
        }
        $found = [];
        foreach (
            $this->db->fetchAllNumeric($sql, [
                'company' => $desk->id(),
                'user' => $desk->actor->userId,
            ]) as [$name, $count, $amount]
        ) {
            $found[(string) $name] = [(int) $count, (int) $amount];
        }
        [$count, $amount] = $found['tasks'];
        yield new WaitingLine(
            WaitingLine::YOURS,
            10,
            'tasks',
            'tasks from colleagues',
            $count,
            $amount,
            'tasks',
            [],
            'Look through them',
        );
        if (isset($found['matches'])) {
            [$count, $amount] = $found['matches'];
            yield new WaitingLine(
                WaitingLine::GOODS,
                30,
                'matches',
                'vendor invoices do not fit their orders',
                $count,
                $amount,
                'documents',
                ['side' => 'payables', 'state' => 'held'],
                'Decide',
            );
        }
    }

    /** @return array<string, array<string, array{int, int}>> count and amount in base currency, by side and name */
    private function found(Desk $desk): array
    {
        $found = [];
        foreach (
            [...$this->items($desk), ...$this->documents($desk), ...$this->toCome($desk)] as [$side, $name, $count, $amount]
        ) {
            [$n, $sum] = $found[$side][$name] ?? [0, 0];
            $found[$side][$name] = [$n + $count, $sum + $amount];
        }

        return $found;
    }

    /** @return iterable<array{string, string, int, int}> side, name, count, amount */
    private function items(Desk $desk): iterable
    {
        $rows = $this->db->iterateNumeric(
            <<<'SQL'
            SELECT side, 'overdue', COUNT(*), SUM(open_base)
            FROM open_item
            WHERE company_id = :company AND side IN ('payables', 'receivables') AND is_open = 1 AND due_date < :day AND open > 0
            GROUP BY side
            SQL
            ,
            ['company' => $desk->id(), 'day' => $desk->today->iso()],
        );
        foreach ($rows as [$side, $name, $count, $amount]) {
            yield [(string) $side, (string) $name, (int) $count, (int) $amount];
        }
    }

    /** @return iterable<array{string, string, int, int}> a document that is held and awaits approval is both */
    private function documents(Desk $desk): iterable
    {
        $rows = $this->db->iterateNumeric(
            <<<'SQL'
            SELECT side, state, approval, held_reason IS NOT NULL, COUNT(*),
                SUM(IF(state <> 'draft', total_base, IF(currency = ?, total, 0)))
            FROM document
            WHERE company_id = ? AND waits = 1
            GROUP BY 1, 2, 3, 4
            SQL
            ,
            [$desk->company->baseCurrency, $desk->id()],
        );
        foreach ($rows as [$side, $state, $approval, $held, $count, $amount]) {
            $names = match (true) {
                'draft' === $state => ['drafts'],
                default => [
                    ...(bool) $held ? ['held'] : [],
                    ...\in_array($approval, ['awaiting', 'refused'], true) ? [$approval] : [],
                ],
            };
            foreach ($names as $name) {
                yield [(string) $side, (string) $name, (int) $count, (int) $amount];
            }
        }
    }

    /** @return iterable<array{string, string, int, int}> open batches, and what comes again by today */
    private function toCome(Desk $desk): iterable
    {
        $rows = $this->db->iterateNumeric(
            <<<'SQL'
            SELECT b.side, 'batches', COUNT(DISTINCT b.id), COALESCE(SUM(IF(d.currency = ?, d.total, 0)), 0)
            FROM batch b
            LEFT JOIN document d ON d.batch_id = b.id
            WHERE b.company_id = ? AND b.posted_at IS NULL
            GROUP BY b.side
            UNION ALL
            SELECT side, 'recurring', COUNT(*), 0
            FROM recurring
            WHERE company_id = ? AND stopped = 0 AND next_on <= ?
            GROUP BY side
            UNION ALL
            SELECT side, 'lots', COUNT(*), 0
            FROM posting_lot
            WHERE company_id = ? AND ended_at IS NULL
            GROUP BY side
            SQL
            ,
            [$desk->company->baseCurrency, $desk->id(), $desk->id(), $desk->today->iso(), $desk->id()],
        );
        foreach ($rows as [$side, $name, $count, $amount]) {
            yield [(string) $side, (string) $name, (int) $count, (int) $amount];
        }
    }
}
