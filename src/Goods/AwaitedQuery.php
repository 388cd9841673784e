<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;

/** What was invoiced and not received as of a day, line by line: an invoice counts from its day, what came of it from its own. */
final readonly class AwaitedQuery
{
    /** So many lines stand on the page; the file has them all. */
    public const MOST = 300;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param int|null $most so many, the oldest first; null for all
     *
     * @return list<array<string, mixed>>
     */
    public function lines(int $companyId, Day $asOf, ?int $most = null): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT w.id, w.document_id, d.number, d.their_number, d.currency, w.invoiced_on, v.code, v.name, o.id AS order_id,
                o.number AS order_number, n.text, p.unit, COALESCE(p.wanted_by, o.wanted_by) AS wanted_by, u.name AS ordered_by,
                DATEDIFF(:day, w.invoiced_on) AS age, w.quantity - COALESCE(t.quantity, 0) AS quantity,
                w.amount - COALESCE(t.amount, 0) AS amount, w.amount_base - COALESCE(t.base, 0) AS base, d.held_reason
            FROM goods_awaited w
            JOIN document d ON d.id = w.document_id
            JOIN document_line n ON n.document_id = w.document_id AND n.position = w.line_position
            JOIN purchase_order_line p ON p.id = w.order_line_id
            JOIN purchase_order o ON o.id = p.order_id
            JOIN party v ON v.id = d.party_id
            JOIN app_user u ON u.id = o.created_by_id
            LEFT JOIN (
                SELECT a.awaited_id, SUM(a.quantity) AS quantity, SUM(a.amount) AS amount, SUM(a.amount_base) AS base
                FROM goods_arrival a
                WHERE a.moved_on <= :day AND (a.undone_on IS NULL OR a.undone_on > :day)
                GROUP BY a.awaited_id
            ) t ON t.awaited_id = w.id
            WHERE w.company_id = :company AND w.invoiced_on <= :day AND (w.undone_on IS NULL OR w.undone_on > :day)
                AND w.quantity > COALESCE(t.quantity, 0)
            ORDER BY w.invoiced_on, w.id
            SQL
            .(null === $most ? '' : ' LIMIT '.$most),
            ['company' => $companyId, 'day' => $asOf->iso()],
        );
    }

    /** @return array{int, int} what invoices wait for as of the day, and what its accounts hold; base minor units */
    public function sums(int $companyId, Day $asOf): array
    {
        $row = $this->db->fetchNumeric(
            <<<'SQL'
            SELECT
                (SELECT COALESCE(SUM(w.amount_base), 0)
                    FROM goods_awaited w
                    WHERE w.company_id = :company AND w.invoiced_on <= :day AND (w.undone_on IS NULL OR w.undone_on > :day))
                - (SELECT COALESCE(SUM(a.amount_base), 0)
                    FROM goods_awaited w
                    JOIN goods_arrival a ON a.awaited_id = w.id
                    WHERE w.company_id = :company AND a.moved_on <= :day AND (a.undone_on IS NULL OR a.undone_on > :day)),
                (SELECT COALESCE(SUM(l.base), 0)
                    FROM account a
                    JOIN journal_line l ON l.account_id = a.id
                    WHERE a.company_id = :company AND a.role = :role AND l.posting_date <= :day)
            SQL
            ,
            [
                'company' => $companyId,
                'day' => $asOf->iso(),
                'role' => AccountRole::InvoicedNotReceived->value,
            ],
        ) ?: [0, 0];

        return [(int) $row[0], (int) $row[1]];
    }
}
