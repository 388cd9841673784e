<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\WaitingLine;
use Nelbix\App\Platform\Waits;
use Nelbix\Core\Ledger\Side;

/** Money that is posted and has not reached the bank: transfers in no file, files that were not sent, payments the bank rejected. */
final readonly class WaitingTransfers implements Waits
{
    /** By what waits: its words, where one goes on, what one does. */
    private const LINES = [
        'without_file' => ['transfers are posted and in no bank file', 'bank_files', 'Make the file'],
        'not_sent' => ['bank files are made and not sent', 'bank_files', 'Send'],
        'rejected' => ['payments were rejected by the bank and stand open', 'bank_files', 'See why'],
    ];

    public function __construct(private Connection $db)
    {
    }

    public function lines(Desk $desk): iterable
    {
        if (!$desk->sees(Side::Payables)) {
            return;
        }
        $found = $this->found($desk->id());
        $place = 40;
        foreach (self::LINES as $key => [$text, $route, $do]) {
            [$count, $amount] = $found[$key] ?? [0, 0];
            yield new WaitingLine(WaitingLine::PAYABLES, ++$place, $key, $text, $count, $amount, $route, [], $do);
        }
    }

    /** @return array<string, array{int, int}> count and base amount */
    private function found(int $companyId): array
    {
        $found = [];
        $rows = $this->db->iterateNumeric(
            <<<'SQL'
            SELECT 'without_file', COUNT(*), COALESCE(SUM(d.total_base), 0)
            FROM proposal r
            JOIN proposal_payment y ON y.proposal_id = r.id AND y.pay_by = 'file'
            JOIN document d ON d.id = y.document_id AND d.state = 'posted'
            LEFT JOIN bank_file_line l ON l.document_id = d.id
            WHERE r.company_id = :company AND l.id IS NULL
            UNION ALL
            SELECT 'not_sent', COUNT(DISTINCT f.id), COALESCE(SUM(d.total_base), 0)
            FROM bank_file f
            JOIN bank_file_line l ON l.bank_file_id = f.id
            JOIN document d ON d.id = l.document_id
            WHERE f.company_id = :company AND f.sent_at IS NULL
            UNION ALL
            SELECT 'rejected', COUNT(*), COALESCE(SUM(i.open_base), 0)
            FROM (
                SELECT DISTINCT k.item_id
                FROM bank_file f
                JOIN bank_file_line l ON l.bank_file_id = f.id AND l.state IN ('rejected', 'returned')
                JOIN proposal_payment y ON y.document_id = l.document_id
                JOIN proposal_line k ON k.proposal_id = y.proposal_id AND k.payment = y.payment AND k.is_in = 1 AND k.dropped = 0
                WHERE f.company_id = :company
            ) k
            JOIN open_item i ON i.id = k.item_id AND i.open > 0 AND i.reserved_by_id IS NULL
            SQL
            ,
            ['company' => $companyId],
        );
        foreach ($rows as [$key, $count, $amount]) {
            $found[(string) $key] = [(int) $count, (int) $amount];
        }

        return $found;
    }
}
