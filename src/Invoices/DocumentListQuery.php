<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Books\OpenAsOf;
use Nelbix\App\Platform\Keyset;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Documents of one side, filtered, as scalar rows, the newest first, and what was open of each on a day. */
final readonly class DocumentListQuery
{
    /** So many stand on a page; a file has them all. */
    public const PAGE = 100;

    private Keyset $newest;

    public function __construct(private Connection $db)
    {
        $this->newest = new Keyset(['d.id'], true);
    }

    /**
     * A page of them.
     *
     * @param string|null $after where it begins, of the page before
     *
     * @return array{rows: list<array<string, mixed>>, next: ?string}
     */
    public function page(DocumentFilter $filter, ?string $after = null, int $size = self::PAGE): array
    {
        [$rows, $next] = $this->newest->page($this->rows($filter, $after, $size + 1), $size);

        return ['rows' => $rows, 'next' => $next];
    }

    /** @return \Generator<int, array<string, mixed>> all of them */
    public function each(DocumentFilter $filter): \Generator
    {
        yield from $this->newest->each(fn (?string $after, int $most): array => $this->rows($filter, $after, $most));
    }

    /** @return array{count: int, total: int} of all of them; the total in base currency, of drafts in their own */
    public function foot(DocumentFilter $filter): array
    {
        // the sum looks at every row, so it joins only what a filter asks for
        $sum =
            $this->db->fetchAssociative(
                <<<SQL
                SELECT COUNT(*) AS n, COALESCE(SUM(IF(d.state = 'draft', d.total, d.total_base)), 0) AS total
                FROM document d {$filter->joins()}
                WHERE {$filter->where}
                SQL
                ,
                $filter->with,
            ) ?:
            [];

        return ['count' => (int) ($sum['n'] ?? 0), 'total' => (int) ($sum['total'] ?? 0)];
    }

    /** @return list<array<string, mixed>> */
    private function rows(DocumentFilter $filter, ?string $after, int $most): array
    {
        [$older, $place] = $this->newest->after($after);
        // along its own index: down the numbers of all companies it would meet the others' documents first
        $rows = $this->db->fetchAllAssociative(
            <<<SQL
            SELECT {$this->newest->select()}, d.id, d.number, d.their_number, d.kind, d.state, d.document_date, d.posting_date,
                d.due_date, d.total, d.currency, d.description, d.held_reason, d.approval, p.code, p.name, u.name AS by_name,
                b.name AS batch_name,
                EXISTS (SELECT 1 FROM stored_file f WHERE f.company_id = d.company_id AND f.subject = 'paper'
                AND f.subject_id = d.id) AS paper
            FROM document d IGNORE INDEX FOR ORDER BY (PRIMARY)
            LEFT JOIN party p ON p.id = d.party_id
            LEFT JOIN app_user u ON u.id = d.created_by_id
            LEFT JOIN batch b ON b.id = d.batch_id
            WHERE {$filter->where}$older
            ORDER BY {$this->newest->order()}
            LIMIT $most
            SQL
            ,
            [...$filter->with, ...$place],
        );
        $ids = array_map(static fn (array $r): int => (int) $r['id'], $rows);
        $open = $this->open($filter->companyId, $filter->side, $ids, $filter->asOf);

        return array_map(
            static fn (array $r): array => [
                ...$r,
                'original' => $open[(int) $r['id']][0] ?? null,
                'open' => $open[(int) $r['id']][1] ?? null,
            ],
            $rows,
        );
    }

    /**
     * @param list<int> $ids
     *
     * @return array<int, array{int, int}> original and open as of the day, by document
     */
    private function open(int $companyId, Side $side, array $ids, Day $day): array
    {
        if ([] === $ids) {
            return [];
        }
        $open = [];
        $asOf = OpenAsOf::replayed();
        [$left, $join] = [$asOf->open(), $asOf->joinOfItems()];
        foreach (array_chunk($ids, 1000) as $chunk) {
            $items = $this->db->fetchFirstColumn(
                'SELECT id FROM open_item WHERE company_id = ? AND side = ? AND document_id IN (?)',
                [$companyId, $side->value, $chunk],
                [2 => ArrayParameterType::INTEGER],
            );
            $rows =
                [] === $items
                    ? []
                    : $this->db->iterateNumeric(
                        <<<SQL
                        SELECT i.document_id, SUM(i.original), SUM($left)
                        FROM open_item i
                        $join
                        WHERE i.id IN (:items)
                        GROUP BY i.document_id
                        SQL
                        ,
                        ['items' => $items, 'day' => $day->iso()],
                        ['items' => ArrayParameterType::INTEGER],
                    );
            foreach ($rows as [$document, $original, $amount]) {
                $open[(int) $document] = [(int) $original, (int) $amount];
            }
        }

        return $open;
    }
}
