<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Audit;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\SourceKind;
use Nelbix\Core\Calendar\Day;

/**
 * What an audit file holds of a company and a span of days, read slice by slice, so that a million lines never stand in memory. Items that
 * were settled before the span are left out; of all others everything is there that happened to them through its last day. A settlement of
 * earlier days may name one that is left out.
 */
final readonly class AuditRows
{
    private const STILL = 'i.is_open = 1 OR i.last_moved_on >= :from';

    /** An item's number, alone on its side: the second item of a transfer, which is called as the first is, with its place behind it. */
    private const NUMBER = <<<'SQL'
    IF(EXISTS (SELECT 1 FROM open_item o
        WHERE o.document_id = i.document_id AND o.side = i.side AND o.number = i.number AND o.id < i.id),
        CONCAT(i.number, '/2'), i.number)
    SQL;

    public function __construct(private Connection $db, private AuditSlices $slices)
    {
    }

    /** @return array{entries: int, lines: int, debit: int, credit: int, documents: int, settlements: int} control totals */
    public function totals(int $companyId, Day $from, Day $to): array
    {
        $with = self::with($companyId, $from, $to);
        $lines = $this->db->fetchNumeric(
            <<<'SQL'
            SELECT COUNT(DISTINCT e.id), COUNT(l.id), SUM(GREATEST(l.base, 0)), SUM(GREATEST(-l.base, 0))
            FROM journal_entry e
            JOIN journal_line l ON l.entry_id = e.id
            WHERE e.company_id = :company AND e.posting_date BETWEEN :from AND :to
            SQL
            ,
            $with,
        ) ?: [0, 0, 0, 0];

        return [
            'entries' => (int) $lines[0],
            'lines' => (int) $lines[1],
            'debit' => (int) $lines[2],
            'credit' => (int) $lines[3],
            'documents' => (int) $this->db->fetchOne(
                'SELECT COUNT(*) FROM document d WHERE '.self::documentsWhere(),
                $with,
            ),
            'settlements' => (int) $this->db->fetchOne(
                'SELECT COUNT(*) FROM settlement s WHERE '.self::settlementsWhere(),
                $with,
            ),
        ];
    }

    /** @return list<array<string, mixed>> number, name, type, opening, closing; debit positive */
    public function accounts(int $companyId, Day $from, Day $to): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT a.number, a.name, a.type, COALESCE(a.role, '') AS role,
                COALESCE(SUM(IF(l.posting_date < :from, l.base, 0)), 0) AS opening,
                COALESCE(SUM(l.base), 0) AS closing
            FROM account a
            LEFT JOIN journal_line l ON l.account_id = a.id AND l.posting_date <= :to
            WHERE a.company_id = :company
            GROUP BY a.id, a.number, a.name, a.type, a.role
            ORDER BY a.number
            SQL
            ,
            self::with($companyId, $from, $to),
        );
    }

    /** @return \Generator<int, array<string, mixed>> of one side, with opening and closing on the control accounts, debit positive */
    public function parties(int $companyId, string $side, Day $from, Day $to): \Generator
    {
        $controls = Chart::controls();
        yield from $this->slices->of(
            'party',
            <<<SQL
            SELECT p.id, p.code, p.name, p.tax_number, p.street, p.city, p.country, COALESCE(a.number, '') AS account,
                COALESCE((SELECT SUM(l.base) FROM journal_line l JOIN account c ON c.id = l.account_id AND c.role IN ($controls)
                    WHERE l.party_id = p.id AND l.posting_date < :from), 0) AS opening,
                COALESCE((SELECT SUM(l.base) FROM journal_line l JOIN account c ON c.id = l.account_id AND c.role IN ($controls)
                    WHERE l.party_id = p.id AND l.posting_date <= :to), 0) AS closing
            FROM party p
            LEFT JOIN account a ON a.id = p.control_account_id
            WHERE p.company_id = :company AND p.side = :side AND p.id > :after AND p.id <= :through
            ORDER BY p.id
            SQL
            ,
            [...self::with($companyId, $from, $to), 'side' => $side],
        );
    }

    /** @return list<array<string, mixed>> code, text, rate, used_by */
    public function taxCodes(int $companyId): array
    {
        return $this->db->fetchAllAssociative(
            'SELECT code, text, rate, used_by FROM tax_code WHERE company_id = ? ORDER BY code',
            [$companyId],
        );
    }

    /** @return \Generator<int, array<string, mixed>> entries of one kind of source, each with its lines */
    public function entries(int $companyId, ?SourceKind $kind, Day $from, Day $to): \Generator
    {
        $is = null === $kind ? 'e.source_kind IS NULL' : "e.source_kind = '".$kind->value."'";
        $entries = $this->slices->of(
            'journal_entry',
            <<<SQL
            SELECT e.id, e.number, e.posting_date, e.text, e.currency, e.bypass, e.created_at, u.username, p.year, p.number AS period,
                d.number AS document, d.batch_id
            FROM journal_entry e
            JOIN app_user u ON u.id = e.created_by_id
            JOIN period p ON p.company_id = e.company_id AND e.posting_date BETWEEN p.first_day AND p.last_day
            LEFT JOIN document d ON e.source_kind = 'document' AND d.id = e.source_id
            WHERE e.company_id = :company AND e.posting_date BETWEEN :from AND :to AND $is AND e.id > :after AND e.id <= :through
            ORDER BY e.id
            SQL
            ,
            self::with($companyId, $from, $to),
        );
        yield from $this->slices->withChildren(
            $entries,
            'lines',
            'entry_id',
            <<<'SQL'
            SELECT l.entry_id, l.position, a.number AS account, l.base, l.amount, l.text, pa.code AS party, pa.side,
                cc.code AS cost_center, dp.code AS department, pj.code AS project
            FROM journal_line l
            JOIN account a ON a.id = l.account_id
            LEFT JOIN party pa ON pa.id = l.party_id
            LEFT JOIN analysis_code cc ON cc.id = l.cost_center_id
            LEFT JOIN analysis_code dp ON dp.id = l.department_id
            LEFT JOIN analysis_code pj ON pj.id = l.project_id
            WHERE l.entry_id IN (:ids)
            ORDER BY l.entry_id, l.position
            SQL
            ,
        );
    }

    /**
     * @param list<string>|null $kinds of documents; null for all
     *
     * @return \Generator<int, array<string, mixed>> documents, each with its items
     */
    public function documents(int $companyId, ?string $side, ?array $kinds, Day $from, Day $to): \Generator
    {
        $where = self::documentsWhere();
        $where .= null === $side ? '' : " AND d.side = '$side'";
        $where .= null === $kinds ? '' : " AND d.kind IN ('".implode("', '", $kinds)."')";
        $documents = $this->slices->of(
            'document',
            <<<SQL
            SELECT d.id, d.side, d.kind, d.number, d.their_number, d.document_date, d.posting_date, d.due_date, d.currency, d.rate, d.net,
                d.tax, d.total, d.total_base, d.description, d.method, d.posted_at, u.username, p.code AS party, r.number AS reverses,
                e.number AS entry
            FROM document d
            JOIN party p ON p.id = d.party_id
            JOIN app_user u ON u.id = d.created_by_id
            LEFT JOIN document r ON r.id = d.reverses_id
            LEFT JOIN journal_entry e ON e.source_kind = 'document' AND e.source_id = d.id AND e.reverses_id IS NULL
            WHERE $where AND d.id > :after AND d.id <= :through
            ORDER BY d.id
            SQL
            ,
            self::with($companyId, $from, $to),
        );
        $number = self::NUMBER;
        yield from $this->slices->withChildren(
            $documents,
            'items',
            'document_id',
            <<<SQL
            SELECT i.document_id, $number AS number, i.side, i.kind, a.number AS account, p.code AS party, i.currency, i.original,
                i.original_base, i.document_date, i.posting_date, i.due_date
            FROM open_item i
            JOIN account a ON a.id = i.account_id
            JOIN party p ON p.id = i.party_id
            WHERE i.document_id IN (:ids)
            ORDER BY i.document_id, i.part, i.id
            SQL
            ,
        );
    }

    /** @return \Generator<int, array<string, mixed>> settlements, each with what it applied and adjusted */
    public function settlements(int $companyId, Day $from, Day $to): \Generator
    {
        $where = self::settlementsWhere();
        $settlements = $this->slices->of(
            'settlement',
            <<<SQL
            SELECT s.id, s.side, s.currency, s.settled_on, s.exchange, IF(s.undone_on <= :to, s.undone_on, NULL) AS undone_on, s.created_at,
                u.username, p.code AS party, d.number AS document
            FROM settlement s
            JOIN party p ON p.id = s.party_id
            JOIN app_user u ON u.id = s.created_by_id
            LEFT JOIN document d ON d.id = s.document_id
            WHERE $where AND s.id > :after AND s.id <= :through
            ORDER BY s.id
            SQL
            ,
            self::with($companyId, $from, $to),
        );
        $number = self::NUMBER;
        yield from $this->slices->withChildren(
            $settlements,
            'lines',
            'settlement_id',
            <<<SQL
            SELECT l.settlement_id, $number AS number, a.number AS account, l.applied, l.applied_base, 'applied' AS kind
            FROM settlement_line l
            JOIN open_item i ON i.id = l.item_id
            JOIN account a ON a.id = i.account_id
            WHERE l.settlement_id IN (:ids)
            UNION ALL
            SELECT x.settlement_id, $number, a.number, x.amount, x.amount_base, x.kind
            FROM settlement_adjustment x
            JOIN open_item i ON i.id = x.item_id
            JOIN account a ON a.id = x.account_id
            WHERE x.settlement_id IN (:ids)
            ORDER BY 1
            SQL
            ,
        );
    }

    private static function documentsWhere(): string
    {
        $still = self::STILL;

        return <<<SQL
        d.company_id = :company AND d.number IS NOT NULL AND d.posting_date <= :to AND (d.posting_date >= :from
            OR EXISTS (SELECT 1 FROM open_item i WHERE i.document_id = d.id AND ($still)))
        SQL;
    }

    private static function settlementsWhere(): string
    {
        $still = self::STILL;

        return <<<SQL
        s.company_id = :company AND s.settled_on <= :to AND (s.settled_on >= :from OR EXISTS (SELECT 1 FROM settlement_line l
            JOIN open_item i ON i.id = l.item_id WHERE l.settlement_id = s.id AND ($still)))
        SQL;
    }

    /** @return array{company: int, from: string, to: string} */
    private static function with(int $companyId, Day $from, Day $to): array
    {
        return ['company' => $companyId, 'from' => $from->iso(), 'to' => $to->iso()];
    }
}
