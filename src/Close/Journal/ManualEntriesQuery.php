<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Keyset;

/** Entries by hand, by where they stand. */
final readonly class ManualEntriesQuery
{
    public const SHOW = [
        'open' => ['draft', 'waiting'],
        'posted' => ['posted'],
        'recurring' => ['recurring', 'stopped'],
    ];

    private const PAGE = 100;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param string $show a key of SHOW
     *
     * @return array{rows: list<array<string, mixed>>, next: ?string} the newest first
     */
    public function page(int $companyId, string $show, ?string $after): array
    {
        $keyset = new Keyset(['m.day', 'm.id'], true);
        [$later, $place] = $keyset->after($after);
        [$keys, $order, $most] = [$keyset->select(), $keyset->order(), self::PAGE + 1];
        $states = "'".implode("', '", self::SHOW[$show])."'";
        [$rows, $next] = $keyset->page(
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT m.id, m.state, m.day, m.text, m.amount, m.bypass, m.allowed_by_id, m.approved_by_id, m.refused_why,
                    m.reverses_on, m.every, m.next_on, m.until_on, m.made, u.name AS `by`, e.number, r.number AS reversed_by, $keys
                FROM manual_entry m
                JOIN app_user u ON u.id = m.created_by_id
                LEFT JOIN journal_entry e ON e.id = m.entry_id
                LEFT JOIN journal_entry r ON r.reverses_id = e.id
                WHERE m.company_id = :company AND m.state IN ($states)$later
                ORDER BY $order
                LIMIT $most
                SQL
                ,
                ['company' => $companyId, ...$place],
            ),
            self::PAGE,
        );

        return ['rows' => $rows, 'next' => $next];
    }

    /** @return array{id: int, source_kind: ?string, reverses_id: ?int, reversed_by: ?string}|null what can be reversed of an entry */
    public function entry(int $companyId, string $number): ?array
    {
        $row = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT e.id, e.source_kind, e.reverses_id, r.number AS reversed_by
            FROM journal_entry e
            LEFT JOIN journal_entry r ON r.reverses_id = e.id
            WHERE e.company_id = ? AND e.number = ?
            LIMIT 1
            SQL
            ,
            [$companyId, $number],
        );

        return false === $row
            ? null
            : [
                'id' => (int) $row['id'],
                'source_kind' => null === $row['source_kind'] ? null : (string) $row['source_kind'],
                'reverses_id' => null === $row['reverses_id'] ? null : (int) $row['reverses_id'],
                'reversed_by' => null === $row['reversed_by'] ? null : (string) $row['reversed_by'],
            ];
    }
}
