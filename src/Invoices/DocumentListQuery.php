<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\BooksDay;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\ProblemList;

/** Documents of one side, filtered, as scalar rows: a page of them, their count and total, and what was open of each on a day. */
final readonly class DocumentListQuery
{
    public const FILTERS = ['state', 'party', 'kind', 'from', 'to', 'least', 'most', 'batch', 'text', 'who', 'as_of'];
    public const STATES = [
        'posted' => 'posted',
        'draft' => 'drafts',
        'held' => 'held',
        'awaiting' => 'awaiting approval',
        'reversed' => 'reversed',
        'all' => 'all',
    ];

    private const PAGE = 100;

    public function __construct(private Connection $db, private BooksDay $booksDay)
    {
    }

    /**
     * @param array<string, string> $filters the keys of FILTERS
     *
     * @return array{rows: list<array<string, mixed>>, more: ?int, count: int, total: int, asOf: Day, problems: ProblemList}
     */
    public function of(
        int $companyId,
        Side $side,
        string $baseCurrency,
        array $filters,
        ?int $before = null,
        ?int $limit = self::PAGE,
    ): array {
        $problems = new ProblemList();
        $input = $this->booksDay->input($companyId);
        $today = $this->booksDay->of($companyId);
        $day = static fn (string $key): ?Day => '' === $filters[$key]
            ? null
            : $problems->attempt(static fn (): Day => $input->read($filters[$key], $key));
        $amount = static fn (string $key): ?int => '' === $filters[$key]
            ? null
            : $problems->attempt(
                static fn (): int => AmountInput::read($filters[$key], Currency::of($baseCurrency), $key)->minor,
            );
        $asOf = $day('as_of') ?? $today;
        $where = [
            'd.company_id = :company',
            'd.side = :side',
            match ($filters['state']) {
                'draft' => "d.state = 'draft'",
                'held' => "d.state = 'posted' AND d.held_reason IS NOT NULL",
                'awaiting' => "d.state = 'posted' AND d.approval IN ('awaiting', 'refused')",
                'reversed' => "d.state = 'reversed'",
                'all' => '1 = 1',
                default => "d.state <> 'draft'",
            },
        ];
        $with = ['company' => $companyId, 'side' => $side->value];
        $add = static function (string $sql, string $name, mixed $value) use (&$where, &$with): void {
            $where[] = $sql;
            $with[$name] = $value;
        };
        if ('' !== $filters['party']) {
            $add('(p.code = :party OR p.name LIKE :party_like OR p.name LIKE :party_word)', 'party', $filters['party']);
            $with['party_like'] = addcslashes($filters['party'], '%_\\').'%';
            $with['party_word'] = '% '.$with['party_like'];
        }
        foreach (
            ['kind' => 'd.kind = :kind', 'who' => 'u.username = :who', 'batch' => 'b.name = :batch'] as $key => $sql
        ) {
            if ('' !== $filters[$key]) {
                $add($sql, $key, $filters[$key]);
            }
        }
        if ('' !== $filters['text']) {
            $add(
                '(d.number LIKE :text OR d.their_number LIKE :text OR d.description LIKE :text OR d.reference LIKE :text)',
                'text',
                '%'.addcslashes($filters['text'], '%_\\').'%',
            );
        }
        foreach (
            [
                'from' => 'COALESCE(d.posting_date, d.document_date) >= :from',
                'to' => 'COALESCE(d.posting_date, d.document_date) <= :to',
            ] as $key => $sql
        ) {
            if (null !== ($value = $day($key))) {
                $add($sql, $key, $value->iso());
            }
        }
        foreach (['least' => 'd.total >= :least', 'most' => 'd.total <= :most'] as $key => $sql) {
            if (null !== ($value = $amount($key))) {
                $add($sql, $key, $value);
            }
        }
        if ('' !== $filters['as_of'] && !$asOf->equals($today)) {
            $add("(d.state = 'draft' OR d.posting_date <= :as_of)", 'as_of', $asOf->iso());
        }
        // the sum looks at every row, so it joins only what a filter asks for
        $joins =
            ('' === $filters['party'] ? '' : ' LEFT JOIN party p ON p.id = d.party_id').
            ('' === $filters['who'] ? '' : ' JOIN app_user u ON u.id = d.created_by_id').
            ('' === $filters['batch'] ? '' : ' LEFT JOIN batch b ON b.id = d.batch_id');
        $from =
            <<<'SQL'
            FROM document d
            LEFT JOIN party p ON p.id = d.party_id
            LEFT JOIN app_user u ON u.id = d.created_by_id
            LEFT JOIN batch b ON b.id = d.batch_id
            WHERE

            SQL
            .implode(' AND ', $where);
        $sum =
            $this->db->fetchAssociative(
                <<<SQL
                SELECT COUNT(*) AS n, COALESCE(SUM(IF(d.state = 'draft', d.total, d.total_base)), 0) AS total
                FROM document d$joins
                WHERE

                SQL
                .implode(' AND ', $where),
                $with,
            ) ?:
            [];
        $rows = $this->db->fetchAllAssociative(
            <<<SQL
            SELECT d.id, d.number, d.their_number, d.kind, d.state, d.document_date, d.posting_date, d.due_date, d.total,
                d.currency, d.description, d.held_reason, d.approval, p.code, p.name, u.name AS by_name, b.name AS batch_name,
                EXISTS (SELECT 1 FROM stored_file f WHERE f.company_id = d.company_id AND f.subject = 'paper'
                AND f.subject_id = d.id) AS paper $from
            SQL
            .
                (null === $before ? '' : ' AND d.id < :before').
                ' ORDER BY d.id DESC'.
                (null === $limit ? '' : ' LIMIT '.($limit + 1)),
            null === $before ? $with : [...$with, 'before' => $before],
        );
        $more = null !== $limit && \count($rows) > $limit ? (int) $rows[$limit - 1]['id'] : null;
        $rows = null === $limit ? $rows : \array_slice($rows, 0, $limit);
        $open = $this->open($companyId, $side, array_map(static fn (array $r): int => (int) $r['id'], $rows), $asOf);

        return [
            'rows' => array_map(
                static fn (array $r): array => [
                    ...$r,
                    'original' => $open[(int) $r['id']][0] ?? null,
                    'open' => $open[(int) $r['id']][1] ?? null,
                ],
                $rows,
            ),
            'more' => $more,
            'count' => (int) ($sum['n'] ?? 0),
            'total' => (int) ($sum['total'] ?? 0),
            'asOf' => $asOf,
            'problems' => $problems,
        ];
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
        foreach (array_chunk($ids, 1000) as $chunk) {
            foreach (
                $this->db->fetchAllAssociative(
                    <<<'SQL'
                    SELECT i.document_id, SUM(i.original) AS original,
                        SUM(i.original - COALESCE((SELECT SUM(l.applied) FROM settlement_line l JOIN settlement s
                        ON s.id = l.settlement_id WHERE l.item_id = i.id AND s.settled_on <= ?
                        AND (s.undone_on IS NULL OR s.undone_on > ?)), 0)) AS open
                    FROM open_item i
                    WHERE i.company_id = ? AND i.side = ? AND i.document_id IN (?)
                    GROUP BY i.document_id
                    SQL
                    ,
                    [$day->iso(), $day->iso(), $companyId, $side->value, $chunk],
                    [4 => ArrayParameterType::INTEGER],
                ) as $r
            ) {
                $open[(int) $r['document_id']] = [(int) $r['original'], (int) $r['open']];
            }
        }

        return $open;
    }
}
