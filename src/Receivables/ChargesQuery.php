<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Charges\FinanceCharge;

/**
 * Works out what customers with a yearly rate are charged for being late, through a day, with the working: three queries for all of them.
 * Source: rules.md, Finance charges.
 *
 * @phpstan-type ChargeLine array{item: int, number: string, due: string, amount: int, spans: list<array{after: string, through: string,
 *     days: int, open: int}>}
 * @phpstan-type Charge array{key: string, party_id: int, code: string, name: string, currency: string, rate: string, amount: int,
 *     lines: non-empty-list<ChargeLine>}
 */
final readonly class ChargesQuery
{
    /** Whether money that took part in a settlement bounced, and took it back. */
    private const BOUNCED = <<<'SQL'
    s.undone_on IS NOT NULL AND EXISTS (SELECT 1 FROM settlement_line m JOIN open_item o ON o.id = m.item_id
        JOIN document d ON d.id = o.document_id
        WHERE m.settlement_id = s.id AND d.state = 'reversed' AND d.taken_back = 'bounced') AS bounced
    SQL;

    public function __construct(private Connection $db, private Settings $settings)
    {
    }

    /** @return list<Charge> by customer and currency; those below the customer's smallest charge are left out */
    public function of(int $companyId, Day $through): array
    {
        $items = $this->items($companyId, $through);
        $bouncedCounts = 'never' !== $this->settings->of($companyId)->values['bounced_interest'];
        $moves = $this->moves(array_keys($items), $through);
        $charges = [];
        foreach ($items as $id => $r) {
            $charged = null === $r['charged_through'] ? null : Day::of((string) $r['charged_through']);
            $openFrom = FinanceCharge::openFrom(
                Day::of((string) $r['posting_date']),
                (int) $r['original'],
                $moves[$id] ?? [],
                $bouncedCounts,
            );
            $grace = (int) $r['charge_grace_days'];
            $due = Day::of((string) $r['due_date']);
            $amount = FinanceCharge::on($openFrom, $due, $through, (string) $r['charge_rate'], $grace, $charged);
            if ($amount <= 0) {
                continue;
            }
            $key = $r['party_id'].' '.$r['currency'];
            $charges[$key] ??= [
                'party_id' => (int) $r['party_id'],
                'code' => (string) $r['code'],
                'name' => (string) $r['name'],
                'currency' => (string) $r['currency'],
                'rate' => (string) $r['charge_rate'],
                'smallest' => (int) $r['charge_smallest'],
                'amount' => 0,
                'lines' => [],
            ];
            $charges[$key]['amount'] += $amount;
            $charges[$key]['lines'][] = [
                'item' => $id,
                'number' => (string) $r['number'],
                'due' => (string) $r['due_date'],
                'amount' => $amount,
                'spans' => FinanceCharge::spans($openFrom, $due, $through, $grace, $charged),
            ];
        }
        $large = array_filter($charges, static fn (array $c): bool => $c['amount'] >= $c['smallest']);

        return array_values(
            array_map(static function (array $c) use ($through): array {
                unset($c['smallest']);

                // all that a person sees of it: what is posted is just this
                return [
                    'key' => substr(hash('sha256', $through->iso().json_encode($c, \JSON_THROW_ON_ERROR)), 0, 32),
                    ...$c,
                ];
            }, $large),
        );
    }

    /**
     * Never claims, and charges only where the customer's page says so.
     *
     * @return array<int, array<string, mixed>> items that may be charged, by id
     */
    private function items(int $companyId, Day $through): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT i.id, i.party_id, i.number, i.currency, i.original, i.posting_date, i.due_date, p.code, p.name, p.charge_rate,
                p.charge_grace_days, p.charge_smallest,
                (SELECT MAX(l.through_on) FROM late_charge l LEFT JOIN document d ON d.id = l.document_id
                    WHERE l.item_id = i.id AND (l.document_id IS NULL OR d.state = 'posted')) AS charged_through
            FROM party p
            JOIN open_item i ON i.party_id = p.id AND i.side = 'receivables' AND i.original > 0 AND i.due_date < :through
                AND COALESCE(i.reserved_by_id, 0) >= 0
                AND (i.kind IN ('invoice', 'debit_note') OR (i.kind = 'finance_charge' AND p.charge_on_charges = 1))
                AND (i.open <> 0 OR i.last_moved_on > i.due_date)
            JOIN document o ON o.id = i.document_id AND o.state = 'posted'
            WHERE p.company_id = :company AND p.side = 'receivables' AND p.charge_rate > 0
            ORDER BY p.code, i.currency, i.due_date, i.id
            SQL
            ,
            ['company' => $companyId, 'through' => $through->iso()],
        );
        $found = [];
        foreach ($rows as $r) {
            $found[(int) $r['id']] = $r;
        }

        return $found;
    }

    /**
     * @param list<int> $items
     *
     * @return array<int, list<array{string, int, bool}>> by item: day, what was applied (an undo gives it back), whether it bounced
     */
    private function moves(array $items, Day $through): array
    {
        $found = [];
        $isBounced = self::BOUNCED;
        foreach (array_chunk($items, 1000) as $chunk) {
            $rows = $this->db->iterateNumeric(
                <<<SQL
                SELECT l.item_id, s.settled_on AS day, l.applied, $isBounced
                FROM settlement_line l
                JOIN settlement s ON s.id = l.settlement_id
                WHERE l.item_id IN (:items) AND s.settled_on <= :through
                UNION ALL
                SELECT l.item_id, s.undone_on, -l.applied, $isBounced
                FROM settlement_line l
                JOIN settlement s ON s.id = l.settlement_id
                WHERE l.item_id IN (:items) AND s.undone_on <= :through
                ORDER BY 1, 2
                SQL
                ,
                ['items' => $chunk, 'through' => $through->iso()],
                ['items' => ArrayParameterType::INTEGER],
            );
            foreach ($rows as [$item, $day, $applied, $bounced]) {
                $found[(int) $item][] = [(string) $day, (int) $applied, (bool) $bounced];
            }
        }

        return $found;
    }
}
