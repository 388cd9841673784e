<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Reports;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Keyset;
use Nelbix\Core\Calendar\Day;

/** Lists of what was posted in a span of days: entries by kind, analysis, tax, withholding. Base currency, minor units. */
final readonly class ReportsQuery
{
    public const PAGE = 200;

    /** Kinds of entry and what they are called; the SQL over entry e and document d says which they are. */
    public const KINDS = [
        'vendor_invoices' => [
            'vendor documents',
            "d.side = 'payables' AND d.kind IN ('invoice', 'credit_note', 'debit_note')",
        ],
        'customer_invoices' => [
            'customer documents',
            "d.side = 'receivables' AND d.kind IN ('invoice', 'credit_note', 'debit_note', 'finance_charge')",
        ],
        'payments' => ['payments', "d.side = 'payables' AND d.kind IN ('payment', 'prepayment', 'refund')"],
        'receipts' => ['receipts', "d.side = 'receivables' AND d.kind IN ('receipt', 'prepayment', 'refund')"],
        'settlements' => ['settlements', "e.source_kind = 'settlement'"],
        'goods' => ['deliveries and goods', "e.source_kind IN ('delivery', 'goods_slip')"],
        'bank' => ['deposits and bank lines', "e.source_kind IN ('deposit', 'bank_line')"],
        'by_hand' => ['entries by hand', 'e.source_kind IS NULL'],
        'closing' => ['revaluation and year end', "e.source_kind IN ('revaluation', 'year_end')"],
    ];

    public const ANALYSIS = ['cost_center', 'department', 'project'];

    /** SQL over document d and what it takes its tax from, o: what lowers the tax of a span. */
    private const TAX_SIGN = <<<'SQL'
    IF(d.reverses_id IS NULL, 1, -1) * IF(o.kind = 'credit_note' OR (o.kind = 'debit_note' AND o.side = 'payables'), -1, 1)
    SQL;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param string $kind a key of KINDS, or empty for all
     * @param int|null $batchId only those of a batch of invoices or, below zero, of receipts
     *
     * @return array{rows: list<array<string, mixed>>, next: ?string, count: int, amount: int}
     */
    public function entries(int $companyId, Day $from, Day $to, string $kind, ?int $batchId, ?string $after): array
    {
        $keyset = new Keyset(['e.posting_date', 'e.id']);
        [$later, $place] = $keyset->after($after);
        [$keys, $order, $most] = [$keyset->select(), $keyset->order(), self::PAGE + 1];
        $with = ['company' => $companyId, 'from' => $from->iso(), 'to' => $to->iso()];
        $where = '' === $kind ? '' : ' AND '.self::KINDS[$kind][1];
        if (null !== $batchId) {
            $where .= $batchId > 0 ? ' AND d.batch_id = :batch' : ' AND d.receipt_batch_id = :batch';
            $with['batch'] = abs($batchId);
        }
        $of = <<<SQL
        FROM journal_entry e
        LEFT JOIN document d ON e.source_kind = 'document' AND d.id = e.source_id
        WHERE e.company_id = :company AND e.posting_date BETWEEN :from AND :to$where
        SQL;
        [$rows, $next] = $keyset->page(
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT k.*, u.name AS `by`, (SELECT SUM(GREATEST(l.base, 0)) FROM journal_line l WHERE l.entry_id = k.id) AS amount
                FROM (
                    SELECT e.id, e.number, e.posting_date, e.text, e.created_by_id, e.source_kind, e.bypass, $keys
                    $of$later
                    ORDER BY $order
                    LIMIT $most
                ) k
                JOIN app_user u ON u.id = k.created_by_id
                ORDER BY k.k0, k.k1
                SQL
                ,
                [...$with, ...$place],
            ),
            self::PAGE,
        );
        $foot = $this->db->fetchNumeric(
            "SELECT COUNT(*), SUM((SELECT SUM(GREATEST(l.base, 0)) FROM journal_line l WHERE l.entry_id = e.id)) $of",
            $with,
        ) ?: [0, 0];

        return ['rows' => $rows, 'next' => $next, 'count' => (int) $foot[0], 'amount' => (int) $foot[1]];
    }

    /**
     * Income and expense by cost center, department or project, without the entries that close years.
     *
     * @param string $by one of ANALYSIS
     *
     * @return list<array{code: string, name: string, account_id: int, account: string, account_name: string, base: int}>
     */
    public function analysis(int $companyId, Day $from, Day $to, string $by): array
    {
        return array_map(
            static fn (array $r): array => [
                'code' => (string) $r['code'],
                'name' => (string) $r['name'],
                'account_id' => (int) $r['account_id'],
                'account' => (string) $r['account'],
                'account_name' => (string) $r['account_name'],
                'base' => (int) $r['base'],
            ],
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT COALESCE(c.code, '') AS code, COALESCE(c.name, 'none') AS name, a.id AS account_id, a.number AS account,
                    a.name AS account_name, SUM(l.base) AS base
                FROM account a
                JOIN journal_line l ON l.account_id = a.id AND l.posting_date BETWEEN ? AND ?
                JOIN journal_entry e ON e.id = l.entry_id AND (e.source_kind IS NULL OR e.source_kind <> 'year_end')
                LEFT JOIN analysis_code c ON c.id = l.{$by}_id
                WHERE a.company_id = ? AND a.type IN ('income', 'expense')
                GROUP BY c.id, c.code, c.name, a.id, a.number, a.name
                HAVING SUM(l.base) <> 0
                ORDER BY c.code IS NULL, c.code, a.number
                SQL
                ,
                [$from->iso(), $to->iso(), $companyId],
            ),
        );
    }

    /**
     * Tax by code and period, as the documents have it; a reversal takes back what it reverses.
     *
     * @return list<array{year: int, number: int, first_day: string, last_day: string, code_id: int, code: string, use: string, net: int,
     *     tax: int, recoverable: int, documents: int}>
     */
    public function tax(int $companyId, Day $from, Day $to): array
    {
        $sign = self::TAX_SIGN;

        return array_map(
            static fn (array $r): array => [
                'year' => (int) $r['year'],
                'number' => (int) $r['number'],
                'first_day' => (string) $r['first_day'],
                'last_day' => (string) $r['last_day'],
                'code_id' => (int) $r['code_id'],
                'code' => (string) $r['code'],
                'use' => (string) $r['used_by'],
                'net' => (int) $r['net'],
                'tax' => (int) $r['tax'],
                'recoverable' => (int) $r['recoverable'],
                'documents' => (int) $r['documents'],
            ],
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT p.year, p.number, p.first_day, p.last_day, c.id AS code_id, c.code, c.used_by,
                    SUM($sign * ROUND(o.total_base * x.net / NULLIF(o.total, 0))) AS net,
                    SUM($sign * ROUND(o.total_base * x.tax / NULLIF(o.total, 0))) AS tax,
                    SUM($sign * ROUND(o.total_base * x.recoverable / NULLIF(o.total, 0))) AS recoverable,
                    COUNT(DISTINCT d.id) AS documents
                FROM document d
                JOIN document o ON o.id = COALESCE(d.reverses_id, d.id)
                JOIN document_tax x ON x.document_id = o.id
                JOIN tax_code c ON c.id = x.tax_code_id
                JOIN period p ON p.company_id = d.company_id AND d.posting_date BETWEEN p.first_day AND p.last_day
                WHERE d.company_id = ? AND d.number IS NOT NULL AND d.posting_date BETWEEN ? AND ?
                GROUP BY p.year, p.number, p.first_day, p.last_day, c.id, c.code, c.used_by
                ORDER BY p.first_day, c.code
                SQL
                ,
                [$companyId, $from->iso(), $to->iso()],
            ),
        );
    }

    /** @return list<array<string, mixed>> the documents behind the tax of one code */
    public function taxDocuments(int $companyId, int $codeId, Day $from, Day $to): array
    {
        $sign = self::TAX_SIGN;

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT d.id, d.side, d.number, d.kind, d.posting_date, d.currency, p.name AS party,
                $sign * x.net AS net, $sign * x.tax AS tax
            FROM document d
            JOIN document o ON o.id = COALESCE(d.reverses_id, d.id)
            JOIN document_tax x ON x.document_id = o.id
            JOIN party p ON p.id = d.party_id
            WHERE d.company_id = ? AND x.tax_code_id = ? AND d.number IS NOT NULL AND d.posting_date BETWEEN ? AND ?
            ORDER BY d.posting_date, d.id
            LIMIT 1000
            SQL
            ,
            [$companyId, $codeId, $from->iso(), $to->iso()],
        );
    }

    /** @return list<array{party_id: int, party: string, name: string, side: string, year: int, withheld: int, settlements: int}> */
    public function withheld(int $companyId, Day $from, Day $to): array
    {
        return array_map(
            static fn (array $r): array => [
                'party_id' => (int) $r['party_id'],
                'party' => (string) $r['party'],
                'name' => (string) $r['name'],
                'side' => (string) $r['side'],
                'year' => (int) $r['year'],
                'withheld' => -(int) $r['amount'],
                'settlements' => (int) $r['n'],
            ],
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT p.id AS party_id, p.code AS party, p.name, p.side, YEAR(s.settled_on) AS year, SUM(a.amount_base) AS amount,
                    COUNT(DISTINCT s.id) AS n
                FROM settlement s
                JOIN settlement_adjustment a ON a.settlement_id = s.id AND a.kind = 'withholding'
                JOIN party p ON p.id = s.party_id
                WHERE s.company_id = :company AND s.settled_on BETWEEN :from AND :to AND (s.undone_on IS NULL OR s.undone_on > :to)
                GROUP BY p.id, p.code, p.name, p.side, YEAR(s.settled_on)
                ORDER BY p.code, year
                SQL
                ,
                ['company' => $companyId, 'from' => $from->iso(), 'to' => $to->iso()],
            ),
        );
    }
}
