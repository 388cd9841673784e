<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Charges\Commission;

/**
 * Commissions by salesperson: of the money that came in between two days for invoices that name one, less what settlements of that time
 * were undone. In the currency of the documents. Source: rules.md, Commission.
 *
 * @phpstan-type CommissionLine array{day: string, salesperson: string, code: string, name: string, invoice: string, document: int,
 *     receipt: string, money: int, net: int, percent: string, commission: int, currency: string, undone: bool}
 */
final readonly class CommissionQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<CommissionLine> by salesperson and day */
    public function of(int $companyId, Day $from, Day $through): array
    {
        $lines = [];
        foreach ($this->rows($companyId, $from, $through) as $r) {
            // money and credits of one settlement are shared over what they paid; only the money earns a commission
            $paid = (int) $r['applied'] + (int) $r['adjusted'];
            $money = Commission::moneyOf($paid, (int) $r['paid_in_all'], (int) $r['money_in_all']);
            if (0 === $money) {
                continue;
            }
            $sign = 1 === (int) $r['undone'] ? -1 : 1;
            $percent = BigDecimal::of($r['commission_percent']);
            $net = Commission::netPart(
                $money,
                (int) $r['net'] - (int) $r['credited_net'],
                (int) $r['total'] - (int) $r['credited'],
            );
            $lines[] = [
                'day' => (string) $r['day'],
                'salesperson' => (string) $r['salesperson'],
                'code' => (string) $r['code'],
                'name' => (string) $r['name'],
                'invoice' => (string) $r['number'],
                'document' => (int) $r['document_id'],
                'receipt' => (string) $r['receipts'],
                'money' => $sign * $money,
                'net' => $sign * $net,
                'percent' => (string) $r['commission_percent'],
                'commission' => $sign * Commission::of($net, $percent),
                'currency' => (string) $r['currency'],
                'undone' => -1 === $sign,
            ];
        }

        return $lines;
    }

    /** @return list<array<string, mixed>> a row for each invoice item of a settlement that was made, or undone, in the time */
    private function rows(int $companyId, Day $from, Day $through): array
    {
        $settled = fn (string $day, int $undone): string => <<<SQL
        SELECT s.$day AS day, $undone AS undone, d.salesperson, d.commission_percent, d.number, d.id AS document_id, d.net, d.total,
            d.currency, p.code, p.name, l.applied,
            COALESCE((SELECT SUM(j.amount) FROM settlement_adjustment j WHERE j.settlement_id = s.id AND j.item_id = i.id), 0)
                AS adjusted,
            (SELECT SUM(m.applied) FROM settlement_line m JOIN open_item o ON o.id = m.item_id
                WHERE m.settlement_id = s.id AND m.applied > 0)
            + COALESCE((SELECT SUM(j.amount) FROM settlement_adjustment j WHERE j.settlement_id = s.id AND j.amount < 0), 0)
                AS paid_in_all,
            -COALESCE((SELECT SUM(m.applied) FROM settlement_line m JOIN open_item o ON o.id = m.item_id
                WHERE m.settlement_id = s.id AND m.applied < 0 AND o.kind IN ('receipt', 'prepayment', 'hand_over',
                'to_prepayment', 'from_prepayment')), 0) AS money_in_all,
            (SELECT GROUP_CONCAT(DISTINCT o.number ORDER BY o.id SEPARATOR ' ') FROM settlement_line m
                JOIN open_item o ON o.id = m.item_id WHERE m.settlement_id = s.id AND m.applied < 0) AS receipts,
            COALESCE((SELECT SUM(c.net) FROM document c WHERE c.against_id = d.id AND c.kind = 'credit_note'
                AND c.state = 'posted'), 0) AS credited_net,
            COALESCE((SELECT SUM(c.total) FROM document c WHERE c.against_id = d.id AND c.kind = 'credit_note'
                AND c.state = 'posted'), 0) AS credited
        FROM settlement s
        JOIN settlement_line l ON l.settlement_id = s.id AND l.applied > 0
        JOIN open_item i ON i.id = l.item_id
        JOIN document q ON q.id = i.document_id
            JOIN document d ON d.id = IF(q.kind = 'claim', q.against_id, q.id) AND d.salesperson <> '' AND d.commission_percent > 0
            AND d.kind IN ('invoice', 'debit_note')
        JOIN party p ON p.id = i.party_id
        WHERE s.company_id = :company AND s.side = 'receivables' AND s.$day BETWEEN :from AND :through
        SQL;

        return $this->db->fetchAllAssociative(
            $settled('settled_on', 0).
                ' UNION ALL '.
                $settled('undone_on', 1).
                ' ORDER BY salesperson, day, number, undone',
            ['company' => $companyId, 'from' => $from->iso(), 'through' => $through->iso()],
        );
    }
}
