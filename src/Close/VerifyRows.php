<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\InvoiceEntry;

/**
 * Whether what is posted agrees with itself row by row: document with lines and taxes, entry with its document or settlement,
 * item with its document, adjustment with its settlement. An altered row is found though all sums still tie.
 * Source: rules.md, What must always hold, 6.
 */
final readonly class VerifyRows
{
    /** +1 for receivables: what raises an item is debited; −1 for payables. */
    public const SIGN = "IF(%s.side = 'receivables', 1, -1)";

    public function __construct(private Connection $db)
    {
    }

    /** @return list<string> findings, each a sentence that names the record */
    public function of(int $companyId): array
    {
        $found = $this->bases($companyId);
        foreach ($this->queries() as $sql) {
            foreach ($this->db->fetchFirstColumn($sql.' LIMIT 20', ['company' => $companyId]) as $sentence) {
                $found[] = (string) $sentence;
            }
        }

        return $found;
    }

    /** @return list<string> */
    private function queries(): array
    {
        return [
            ...$this->documents(),
            ...$this->items(),
            ...VerifyEntries::queries(),
            ...VerifyGoods::queries(),
            ...$this->settlements(),
        ];
    }

    /** @return list<string> */
    private function documents(): array
    {
        return [
            <<<'SQL'
            SELECT CONCAT(d.number, ': its total ', d.total, ' is not net ', d.net, ' and tax ', d.tax)
            FROM document d
            WHERE d.company_id = :company AND d.state <> 'draft' AND d.total <> d.net + d.tax
            SQL,
            <<<'SQL'
            SELECT CONCAT(d.number, ': its lines add up to ', SUM(l.net), ', its net is ', d.net)
            FROM document d
            JOIN document_line l ON l.document_id = d.id
            WHERE d.company_id = :company AND d.state <> 'draft'
            GROUP BY d.id, d.number, d.net
            HAVING SUM(l.net) <> d.net
            SQL,
            <<<'SQL'
            SELECT CONCAT(d.number, ': its taxes add up to ', t.tax, ', its tax is ', d.tax)
            FROM document d
            JOIN (
                SELECT x.document_id, SUM(IF(c.reverse_account_id IS NULL, x.tax, 0)) AS tax
                FROM document_tax x
                JOIN tax_code c ON c.id = x.tax_code_id
                GROUP BY x.document_id
            ) t ON t.document_id = d.id
            WHERE d.company_id = :company AND d.state <> 'draft' AND t.tax <> d.tax
            SQL,
            <<<'SQL'
            SELECT CONCAT(d.number, ' is due ', d.due_date, ', its last item ', MAX(i.due_date))
            FROM document d
            JOIN open_item i ON i.document_id = d.id
            WHERE d.company_id = :company AND d.state <> 'draft'
            GROUP BY d.id, d.number, d.due_date
            HAVING NOT d.due_date <=> MAX(i.due_date)
            SQL,
        ];
    }

    /** @return list<string> */
    private function items(): array
    {
        $transfers = self::transfers();

        return [
            <<<'SQL'
            SELECT CONCAT('item ', i.number, ' differs from its document ', d.number, ' in kind, party, currency or date')
            FROM open_item i
            JOIN document d ON d.id = i.document_id
            WHERE i.company_id = :company AND (i.currency <> d.currency OR i.posting_date <> d.posting_date
                OR (i.kind <> d.kind AND NOT (i.kind = 'prepayment' AND d.kind IN ('receipt', 'payment')))
                OR (i.party_id <> d.party_id AND d.kind NOT IN ('receipt', 'hand_over', 'contra'))
                OR i.document_date <> COALESCE(d.document_date, d.posting_date)
                OR (i.side <> d.side AND d.kind NOT IN ('refund_request', 'contra')))
            SQL,
            <<<SQL
            SELECT CONCAT(d.number, ' over ', d.total, ' / ', d.total_base, ' raises items of ', SUM(i.original), ' / ',
                SUM(i.original_base))
            FROM document d
            JOIN open_item i ON i.document_id = d.id
            WHERE d.company_id = :company AND d.kind NOT IN ($transfers)
            GROUP BY d.id, d.number, d.total, d.total_base
            HAVING ABS(SUM(i.original)) <> ABS(d.total) OR ABS(SUM(i.original_base)) <> ABS(d.total_base)
            SQL,
            <<<'SQL'
            SELECT CONCAT('item ', i.number, ' is kept as moved on ', i.last_moved_on, ', it was on ',
                GREATEST(i.posting_date, COALESCE(m.day, i.posting_date)))
            FROM open_item i
            LEFT JOIN (
                SELECT l.item_id, MAX(GREATEST(s.settled_on, COALESCE(s.undone_on, s.settled_on))) AS day
                FROM settlement s
                JOIN settlement_line l ON l.settlement_id = s.id
                WHERE s.company_id = :company
                GROUP BY l.item_id
            ) m ON m.item_id = i.id
            WHERE i.company_id = :company
                AND i.last_moved_on <> GREATEST(i.posting_date, COALESCE(m.day, i.posting_date))
            SQL,
        ];
    }

    /** Kinds whose items are not their total, as SQL: they add up to zero, or stand on both sides. */
    private static function transfers(): string
    {
        return "'".implode("', '", DocumentKind::settlingThemselves())."'";
    }

    /** @return list<string> */
    private function settlements(): array
    {
        $sign = \sprintf(self::SIGN, 's');

        return [
            <<<'SQL'
            SELECT CONCAT('settlement ', s.id, ' takes ', i.number, ' of another party, side or currency, or before its day')
            FROM settlement s
            JOIN settlement_line l ON l.settlement_id = s.id
            JOIN open_item i ON i.id = l.item_id
            WHERE s.company_id = :company AND (i.party_id <> s.party_id OR i.side <> s.side OR i.currency <> s.currency
                OR i.posting_date > s.settled_on OR i.company_id <> s.company_id)
            SQL,
            <<<SQL
            SELECT CONCAT('settlement ', s.id, ': applied and adjustments come to ', l.base + COALESCE(j.base, 0),
                ' in base, its exchange difference is ', s.exchange)
            FROM settlement s
            JOIN (SELECT settlement_id, SUM(applied_base) AS base FROM settlement_line GROUP BY settlement_id) l
                ON l.settlement_id = s.id
            LEFT JOIN (SELECT settlement_id, SUM(amount_base) AS base FROM settlement_adjustment GROUP BY settlement_id) j
                ON j.settlement_id = s.id
            WHERE s.company_id = :company AND s.exchange <> $sign * (l.base + COALESCE(j.base, 0))
            SQL,
            <<<'SQL'
            SELECT CONCAT(e.number, ' of ', e.posting_date, ' belongs to settlement ', s.id, ' of ',
                IF(e.reverses_id IS NULL, s.settled_on, s.undone_on))
            FROM journal_entry e
            JOIN settlement s ON s.id = e.source_id
            WHERE e.company_id = :company AND e.source_kind = 'settlement'
                AND NOT (e.posting_date <=> IF(e.reverses_id IS NULL, s.settled_on, s.undone_on))
            SQL,
            <<<SQL
            SELECT CONCAT('settlement ', x.id, ': account ', a.number, ' moved by ', SUM(x.base), ' / ', SUM(x.amount),
                ' of what was applied there')
            FROM (
                SELECT s.id, i.account_id, i.party_id, $sign * l.applied_base AS base, $sign * l.applied AS amount
                FROM settlement s
                JOIN settlement_line l ON l.settlement_id = s.id
                JOIN open_item i ON i.id = l.item_id
                WHERE s.company_id = :company
                UNION ALL
                SELECT s.id, l.account_id, l.party_id, l.base, l.amount
                FROM settlement s
                JOIN journal_entry e ON e.source_kind = 'settlement' AND e.source_id = s.id AND e.reverses_id IS NULL
                JOIN journal_line l ON l.entry_id = e.id
                WHERE s.company_id = :company AND l.party_id IS NOT NULL
            ) x
            JOIN account a ON a.id = x.account_id
            GROUP BY x.id, x.account_id, x.party_id, a.number
            HAVING SUM(x.base) <> 0 OR SUM(x.amount) <> 0
            SQL,
            <<<SQL
            SELECT CONCAT('settlement ', s.id, ': its adjustments of ', j.base, ' stand as ', COALESCE(l.base, 0), ' in its entry')
            FROM settlement s
            JOIN (SELECT settlement_id, SUM(amount_base) AS base FROM settlement_adjustment GROUP BY settlement_id) j
                ON j.settlement_id = s.id
            LEFT JOIN (
                SELECT e.source_id, SUM(l.base) AS base
                FROM journal_entry e
                JOIN journal_line l ON l.entry_id = e.id
                LEFT JOIN account a ON a.id = l.account_id
                WHERE e.company_id = :company AND e.source_kind = 'settlement' AND e.reverses_id IS NULL AND l.party_id IS NULL
                    AND (a.role IS NULL OR a.role <> 'exchange_realised')
                GROUP BY e.source_id
            ) l ON l.source_id = s.id
            WHERE s.company_id = :company AND COALESCE(l.base, 0) <> -$sign * j.base
            SQL,
            <<<'SQL'
            SELECT CONCAT(r.number, ' reverses ', e.number, ' and does not mirror it')
            FROM journal_entry r
            JOIN journal_entry e ON e.id = r.reverses_id
            JOIN (
                SELECT x.id, SUM(x.base) AS base
                FROM (
                    SELECT r.id, l.account_id, COALESCE(l.party_id, 0) AS party, SUM(l.base) AS base, SUM(l.amount) AS amount
                    FROM journal_entry r
                    JOIN journal_line l ON l.entry_id IN (r.id, r.reverses_id)
                    WHERE r.company_id = :company AND r.reverses_id IS NOT NULL
                    GROUP BY r.id, l.account_id, party
                    HAVING SUM(l.base) <> 0 OR SUM(l.amount) <> 0
                ) x
                GROUP BY x.id
            ) m ON m.id = r.id
            WHERE r.company_id = :company
            SQL,
        ];
    }

    /**
     * A document's base is round(total × rate), which the database cannot round as the rules do.
     *
     * @return list<string>
     */
    private function bases(int $companyId): array
    {
        $found = [];
        $transfers = self::transfers();
        $rows = $this->db->iterateAssociative(
            <<<SQL
            SELECT d.number, d.total, d.total_base, d.rate, d.currency, c.base_currency
            FROM document d
            JOIN company c ON c.id = d.company_id
            WHERE d.company_id = ? AND d.state <> 'draft' AND d.kind NOT IN ($transfers)
                AND (d.currency <> c.base_currency OR d.total_base <> d.total)
            SQL
            ,
            [$companyId],
        );
        foreach ($rows as $r) {
            $base = InvoiceEntry::base(
                abs((int) $r['total']),
                (string) $r['currency'],
                (string) $r['base_currency'],
                BigDecimal::of($r['rate']),
            );
            if ($base !== abs((int) $r['total_base'])) {
                $found[] = \sprintf(
                    '%s: its total at %s is %d in base, not %d',
                    $r['number'],
                    $r['rate'],
                    $base,
                    $r['total_base'],
                );
            }
        }

        return \array_slice($found, 0, 20);
    }
}
