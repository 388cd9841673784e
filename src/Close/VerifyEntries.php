<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

/** Whether each entry agrees with itself and with the document or settlement that it was written for. See VerifyRows. */
final class VerifyEntries
{
    /** @return list<string> SQL of one column, a sentence for each finding; :company is its place for the company */
    public static function queries(): array
    {
        $sign = \sprintf(VerifyRows::SIGN, 'i');

        return [
            <<<'SQL'
            SELECT CONCAT(e.number, ' of ', e.posting_date, ' has a line of ', l.posting_date)
            FROM journal_entry e
            JOIN journal_line l ON l.entry_id = e.id
            WHERE e.company_id = :company AND l.posting_date <> e.posting_date
            SQL,
            <<<'SQL'
            SELECT CONCAT(e.number, ' has no number, or one of another year')
            FROM journal_entry e
            LEFT JOIN period p ON p.company_id = e.company_id AND e.posting_date BETWEEN p.first_day AND p.last_day
            WHERE e.company_id = :company AND (
                e.number IS NULL OR e.sequence IS NULL
                OR p.id IS NULL OR e.year <> p.year
            )
            SQL,
            <<<'SQL'
            SELECT CONCAT(e.number, ' is out of balance by ', SUM(l.amount), ' in ', e.currency)
            FROM journal_entry e
            JOIN journal_line l ON l.entry_id = e.id
            WHERE e.company_id = :company
            GROUP BY e.id, e.number, e.currency
            HAVING SUM(l.amount) <> 0 AND SUM(l.amount = 0 AND l.base <> 0) = 0
            SQL,
            <<<'SQL'
            SELECT CONCAT(e.number, ' of ', e.posting_date, ' belongs to ', d.number, ' of ', d.posting_date, ' in ', d.currency)
            FROM journal_entry e
            JOIN document d ON d.id = e.source_id
            WHERE e.company_id = :company AND e.source_kind = 'document'
                AND (e.posting_date <> d.posting_date OR e.currency <> d.currency OR e.company_id <> d.company_id)
            SQL,
            <<<SQL
            SELECT CONCAT(x.number, ': account ', a.number, ' moved by ', SUM(x.base), ' / ', SUM(x.amount),
                ' of what its items and their party say')
            FROM (
                SELECT d.id, d.number, i.account_id, i.party_id, -$sign * i.original_base AS base, -$sign * i.original AS amount
                FROM open_item i
                JOIN document d ON d.id = i.document_id
                WHERE i.company_id = :company
                UNION ALL
                SELECT d.id, d.number, m.account_id, d.party_id, -m.amount_base, -m.amount
                FROM goods_move m
                JOIN document d ON d.id = m.document_id
                WHERE d.company_id = :company AND m.slip_id IS NULL
                UNION ALL
                SELECT d.id, d.number, w.account_id, d.party_id, -w.amount_base, -w.amount
                FROM goods_awaited w
                JOIN document d ON d.id = w.document_id
                WHERE d.company_id = :company
                UNION ALL
                SELECT r.id, r.number, w.account_id, r.party_id, w.amount_base, w.amount
                FROM goods_awaited w
                JOIN document d ON d.id = w.document_id
                JOIN document r ON r.id = d.reversed_by_id
                WHERE d.company_id = :company AND w.undone_on IS NOT NULL
                UNION ALL
                SELECT r.id, r.number, m.account_id, r.party_id, m.amount_base, m.amount
                FROM goods_move m
                JOIN document d ON d.id = m.document_id
                JOIN document r ON r.id = d.reversed_by_id
                WHERE d.company_id = :company AND m.undone_on IS NOT NULL AND m.slip_id IS NULL
                UNION ALL
                SELECT d.id, d.number, l.account_id, l.party_id, l.base, l.amount
                FROM document d
                JOIN journal_entry e ON e.source_kind = 'document' AND e.source_id = d.id
                JOIN journal_line l ON l.entry_id = e.id
                JOIN open_item o ON o.document_id = d.id AND o.part = 1
                WHERE d.company_id = :company AND l.party_id IS NOT NULL
            ) x
            JOIN account a ON a.id = x.account_id
            GROUP BY x.id, x.number, x.account_id, x.party_id, a.number
            HAVING SUM(x.base) <> 0 OR SUM(x.amount) <> 0
            SQL,
            <<<'SQL'
            SELECT CONCAT(d.number, ': its entry moves account ', a.number, ', which none of its lines, taxes or items names')
            FROM document d
            JOIN journal_entry e ON e.source_kind = 'document' AND e.source_id = d.id AND e.reverses_id IS NULL
            JOIN journal_line l ON l.entry_id = e.id
            JOIN account a ON a.id = l.account_id
            WHERE d.company_id = :company AND EXISTS (SELECT 1 FROM document_line n WHERE n.document_id = d.id)
                AND l.account_id NOT IN (
                    SELECT n.account_id FROM document_line n WHERE n.document_id = d.id
                    UNION SELECT i.account_id FROM open_item i WHERE i.document_id = d.id
                    UNION SELECT c.account_id FROM document_tax t JOIN tax_code c ON c.id = t.tax_code_id WHERE t.document_id = d.id
                    UNION SELECT c.reverse_account_id FROM document_tax t JOIN tax_code c ON c.id = t.tax_code_id
                        WHERE t.document_id = d.id AND c.reverse_account_id IS NOT NULL
                    UNION SELECT m.account_id FROM goods_move m WHERE m.document_id = d.id AND m.slip_id IS NULL
                    UNION SELECT m.variance_account_id FROM goods_move m
                        WHERE m.document_id = d.id AND m.variance_account_id IS NOT NULL AND m.slip_id IS NULL
                    UNION SELECT w.account_id FROM goods_awaited w WHERE w.document_id = d.id
                )
                AND (a.role IS NULL OR a.role NOT IN ('cost_of_sales', 'inventory', 'payables', 'receivables', 'exchange_realised'))
            SQL,
            <<<'SQL'
            SELECT CONCAT(d.number, ': account ', a.number, ' moved by ', x.entry, ', its lines say ', x.of_lines)
            FROM (
                SELECT document_id, account_id, SUM(entry) AS entry, SUM(line) AS of_lines
                FROM (
                    SELECT e.source_id AS document_id, l.account_id, l.amount AS entry, 0 AS line
                    FROM journal_entry e
                    JOIN journal_line l ON l.entry_id = e.id
                    WHERE e.company_id = :company AND e.source_kind = 'document' AND e.reverses_id IS NULL
                    UNION ALL
                    SELECT n.document_id, n.account_id, 0,
                        IF(d.side = 'payables', 1, -1) * IF(d.kind = 'credit_note' OR (d.kind = 'debit_note' AND d.side = 'payables'),
                            -1, 1) * n.net
                    FROM document_line n
                    JOIN document d ON d.id = n.document_id
                    LEFT JOIN goods_move m ON m.document_id = n.document_id AND m.line_position = n.position AND m.slip_id IS NULL
                    LEFT JOIN goods_awaited w ON w.document_id = n.document_id AND w.line_position = n.position
                    WHERE d.company_id = :company AND d.state <> 'draft' AND m.id IS NULL AND w.id IS NULL
                    UNION ALL
                    SELECT w.document_id, w.account_id, 0, w.amount
                    FROM goods_awaited w
                    WHERE w.company_id = :company
                    UNION ALL
                    SELECT m.document_id, IF(p.n = 1, m.account_id, m.variance_account_id), 0, IF(p.n = 1, m.amount, n.net - m.amount)
                    FROM goods_move m
                    JOIN document d ON d.id = m.document_id
                    JOIN document_line n ON n.document_id = m.document_id AND n.position = m.line_position
                    JOIN (SELECT 1 AS n UNION ALL SELECT 2) p
                    WHERE d.company_id = :company AND m.slip_id IS NULL
                ) y
                GROUP BY document_id, account_id
            ) x
            JOIN document d ON d.id = x.document_id
            JOIN account a ON a.id = x.account_id
            WHERE x.of_lines <> 0 AND ABS(x.entry) <> ABS(x.of_lines)
                AND NOT EXISTS (SELECT 1 FROM document_tax t JOIN tax_code c ON c.id = t.tax_code_id
                    WHERE t.document_id = d.id AND (t.recoverable <> t.tax OR c.account_id = x.account_id))
                AND NOT EXISTS (SELECT 1 FROM document_line n WHERE n.document_id = d.id AND n.cost IS NOT NULL)
                AND NOT EXISTS (SELECT 1 FROM open_item i WHERE i.document_id = d.id AND i.account_id = x.account_id)
            SQL,
        ];
    }
}
