<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Revaluation;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;

/**
 * Exchange gains and losses of a span of days, realised and unrealised, by party, document or period. They are read from the entries and,
 * for a revaluation, from its items, so that they add up to what the accounts show before a year is closed.
 */
final readonly class GainsQuery
{
    public const BY = ['party', 'document', 'period'];

    private const REALISED = <<<'SQL'
    SELECT 'realised' AS kind, -l.base AS gain, l.posting_date AS day, COALESCE(l.party_id, s.party_id, d.party_id) AS party_id,
        COALESCE(d.id, sd.document_id) AS document_id, e.number AS entry
    FROM journal_line l
    JOIN journal_entry e ON e.id = l.entry_id
    LEFT JOIN settlement s ON e.source_kind = 'settlement' AND s.id = e.source_id
    LEFT JOIN (SELECT x.settlement_id, MIN(i.document_id) AS document_id FROM settlement_line x JOIN open_item i ON i.id = x.item_id
        JOIN settlement t ON t.id = x.settlement_id WHERE t.company_id = :company AND t.document_id IS NULL GROUP BY x.settlement_id) sd
        ON sd.settlement_id = s.id
    LEFT JOIN document d ON d.id = COALESCE(s.document_id, IF(e.source_kind = 'document', e.source_id, NULL))
    WHERE l.account_id IN (:realised) AND l.posting_date BETWEEN :from AND :to AND COALESCE(e.source_kind, '') <> 'year_end'
    SQL;

    private const REVALUED = <<<'SQL'
    SELECT 'unrealised' AS kind, i.gain, r.as_of AS day, o.party_id, o.document_id, e.number AS entry
    FROM revaluation r
    JOIN revaluation_item i ON i.revaluation_id = r.id
    JOIN open_item o ON o.id = i.item_id
    JOIN journal_entry e ON e.id = r.entry_id
    WHERE r.company_id = :company AND r.live = 1 AND r.as_of BETWEEN :from AND :to
    UNION ALL
    SELECT 'unrealised', -i.gain, r.as_of + INTERVAL 1 DAY, o.party_id, o.document_id, b.number
    FROM revaluation r
    JOIN revaluation_item i ON i.revaluation_id = r.id
    JOIN open_item o ON o.id = i.item_id
    JOIN journal_entry b ON b.id = r.back_id
    WHERE r.company_id = :company AND r.live = 1 AND r.as_of + INTERVAL 1 DAY BETWEEN :from AND :to
    UNION ALL
    SELECT 'unrealised', -l.base, l.posting_date, l.party_id, NULL, e.number
    FROM journal_line l
    JOIN journal_entry e ON e.id = l.entry_id
    WHERE l.account_id IN (:unrealised) AND l.posting_date BETWEEN :from AND :to
        AND COALESCE(e.source_kind, '') NOT IN ('revaluation', 'year_end')
    SQL;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param string $by one of BY
     *
     * @return list<array{name: string, document_id: ?int, side: ?string, realised: int, unrealised: int}> gains above zero
     */
    public function of(int $companyId, Day $from, Day $to, string $by): array
    {
        [$name, $join] = match ($by) {
            'document' => [
                'COALESCE(d.number, g.entry), g.document_id, d.side',
                'LEFT JOIN document d ON d.id = g.document_id',
            ],
            'period' => [
                "CONCAT(p.year, '/', LPAD(p.number, 2, '0')), NULL, NULL",
                'LEFT JOIN period p ON p.company_id = :company AND g.day BETWEEN p.first_day AND p.last_day',
            ],
            default => ["COALESCE(p.name, 'nobody named'), NULL, NULL", 'LEFT JOIN party p ON p.id = g.party_id', '1'],
        };
        [$realised, $revalued] = [self::REALISED, self::REVALUED];
        $rows = $this->db->fetchAllNumeric(
            <<<SQL
            SELECT $name, SUM(IF(g.kind = 'realised', g.gain, 0)), SUM(IF(g.kind = 'unrealised', g.gain, 0))
            FROM ($realised UNION ALL $revalued) g
            $join
            GROUP BY 1, 2, 3
            ORDER BY 1
            SQL
            ,
            [
                'company' => $companyId,
                'from' => $from->iso(),
                'to' => $to->iso(),
                'realised' => $this->accounts($companyId, AccountRole::ExchangeRealised),
                'unrealised' => $this->accounts($companyId, AccountRole::ExchangeUnrealised),
            ],
            ['realised' => ArrayParameterType::INTEGER, 'unrealised' => ArrayParameterType::INTEGER],
        );

        return array_map(
            static fn (array $r): array => [
                'name' => (string) $r[0],
                'document_id' => null === $r[1] ? null : (int) $r[1],
                'side' => null === $r[2] ? null : (string) $r[2],
                'realised' => (int) $r[3],
                'unrealised' => (int) $r[4],
            ],
            $rows,
        );
    }

    /** @return array{realised: int, unrealised: int} what the accounts moved in the span, gains above zero */
    public function ledger(int $companyId, Day $from, Day $to): array
    {
        $moved = fn (AccountRole $role): int => -(int) $this->db->fetchOne(
            <<<'SQL'
            SELECT COALESCE(SUM(l.base), 0)
            FROM journal_line l
            JOIN journal_entry e ON e.id = l.entry_id
            WHERE l.account_id IN (?) AND l.posting_date BETWEEN ? AND ? AND COALESCE(e.source_kind, '') <> 'year_end'
            SQL
            ,
            [$this->accounts($companyId, $role), $from->iso(), $to->iso()],
            [ArrayParameterType::INTEGER],
        );

        return [
            'realised' => $moved(AccountRole::ExchangeRealised),
            'unrealised' => $moved(AccountRole::ExchangeUnrealised),
        ];
    }

    /** @return list<int> ids; one that is none when the chart has no such account */
    private function accounts(int $companyId, AccountRole $role): array
    {
        $ids = array_map(
            'intval',
            $this->db->fetchFirstColumn('SELECT id FROM account WHERE company_id = ? AND role = ?', [
                $companyId,
                $role->value,
            ]),
        );

        return [] === $ids ? [0] : $ids;
    }
}
