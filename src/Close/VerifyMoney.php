<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

/** Whether money agrees with what moved it: checks, runs, bank accounts, deposit slips. Source: rules.md, What must always hold, 6. */
final class VerifyMoney
{
    /** @return list<string> SQL of one column, a sentence for each finding, with a place for the company */
    public static function queries(): array
    {
        return [
            <<<'SQL'
            SELECT CONCAT('check ', k.number, ' over ', k.amount, ' is for ', d.number, ' over ', d.total)
            FROM bank_check k
            JOIN document d ON d.id = k.document_id
            WHERE d.company_id = ? AND k.amount <> d.total
            SQL,
            <<<'SQL'
            SELECT CONCAT(d.number, ' over ', d.total, ' pays lines of ', SUM(p.pay))
            FROM document d
            JOIN proposal_payment y ON y.document_id = d.id
            JOIN proposal_line p ON p.proposal_id = y.proposal_id AND p.payment = y.payment AND p.is_in = 1 AND p.dropped = 0
            WHERE d.company_id = ?
            GROUP BY d.id, d.number, d.total
            HAVING SUM(p.pay) <> d.total
            SQL,
            <<<'SQL'
            SELECT CONCAT(d.number, ' over ', d.total_base, ' moved the bank by ', COALESCE(SUM(l.base), 0))
            FROM document d
            JOIN bank_account b ON b.id = d.bank_account_id
            LEFT JOIN journal_entry e ON e.source_kind = 'document' AND e.source_id = d.id
            LEFT JOIN journal_line l ON l.entry_id = e.id AND l.account_id = COALESCE(d.on_hand_account_id, b.account_id)
            WHERE d.company_id = ? AND d.state <> 'draft'
            GROUP BY d.id, d.number, d.total_base, d.bank_base, d.side
            HAVING COALESCE(SUM(l.base), 0) <> IF(d.side = 'receivables', 1, -1) * d.bank_base
            SQL,
            <<<'SQL'
            SELECT CONCAT(s.number, ' over ', s.amount, ' / ', s.amount_base, ' has receipts of ', COALESCE(SUM(l.amount), 0), ' / ',
                COALESCE(SUM(l.amount_base), 0))
            FROM deposit_slip s
            LEFT JOIN deposit_line l ON l.slip_id = s.id
            WHERE s.company_id = ?
            GROUP BY s.id, s.number, s.amount, s.amount_base
            HAVING s.amount <> COALESCE(SUM(l.amount), 0) OR s.amount_base <> COALESCE(SUM(l.amount_base), 0)
            SQL,
        ];
    }
}
