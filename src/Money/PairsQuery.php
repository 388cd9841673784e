<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\DiscountSteps;
use Nelbix\App\Books\StoredItem;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Placement\Pairer;

/**
 * What the credits and the unapplied money of all parties of a side fit, worked out from what is open now: one query for all.
 *
 * @phpstan-type Pair array{key: string, party_id: int, code: string, name: string, currency: string, credit: int, credit_number: string,
 *     credit_document: int, credit_kind: string, amount: int, posted: string, why: string, items: non-empty-list<array{id: int,
 *     number: string, document: int, open: int, gross: int, discount: int, posted: string}>}
 */
final readonly class PairsQuery
{
    public function __construct(private Connection $db, private DiscountSteps $steps)
    {
    }

    /** @return list<Pair> of what was posted by the day, the parties in order of their codes */
    public function of(int $companyId, Side $side, Day $day): array
    {
        $pairs = $rows = [];
        $group = '';
        foreach ($this->rows($companyId, $side, $day) as $row) {
            $of = $row['party_id'].' '.$row['currency'];
            if ($of !== $group) {
                array_push($pairs, ...$this->pairs($rows, $side));
                [$rows, $group] = [[], $of];
            }
            $rows[(int) $row['id']] = $row;
        }
        array_push($pairs, ...$this->pairs($rows, $side));

        return $pairs;
    }

    /** @return iterable<array<string, mixed>> of parties with something on both sides of their account, one after the other */
    private function rows(int $companyId, Side $side, Day $day): iterable
    {
        $steps = DiscountSteps::STEPS;
        $discount = $this->steps->reader($companyId, $side);
        $rows = $this->db->iterateAssociative(
            <<<SQL
            SELECT i.id, i.party_id, i.kind, i.number, i.document_id, i.account_id, i.currency, i.original, i.original_base, i.open,
                i.open_base, i.posting_date, i.due_date, i.document_date, i.discount_base, i.grace_days, p.code, p.name, d.reference,
                $steps AS steps
            FROM open_item i
            JOIN party p ON p.id = i.party_id AND p.nobody = 0
            JOIN document d ON d.id = i.document_id
            WHERE i.company_id = :company AND i.side = :side AND i.is_open = 1 AND i.reserved_by_id IS NULL
                AND i.posting_date <= :day
                AND d.held_reason IS NULL AND d.approval NOT IN ('awaiting', 'refused') AND i.kind NOT IN ('claim', 'refund_request')
                AND i.party_id IN (
                    SELECT c.party_id FROM open_item c
                    WHERE c.company_id = :company AND c.side = :side AND c.is_open = 1 AND c.open < 0
                )
            ORDER BY p.code, i.party_id, i.currency, i.id
            SQL
            ,
            ['company' => $companyId, 'side' => $side->value, 'day' => $day->iso()],
        );
        foreach ($rows as $row) {
            $row['early'] = $discount($row);
            yield $row;
        }
    }

    /**
     * @param array<int, array<string, mixed>> $rows of one party and currency, by item
     *
     * @return list<Pair>
     */
    private function pairs(array $rows, Side $side): array
    {
        $items = $texts = [];
        foreach ($rows as $id => $row) {
            $items[] = StoredItem::of($row, $side, $row['early']);
            $texts[$id] = (string) $row['reference'];
        }
        $pairs = [];
        foreach (Pairer::of($items, $texts) as $pair) {
            $credit = $rows[$pair->credit->id];
            $placed = [];
            foreach ($pair->idea->placed as $id => $p) {
                $placed[] = [
                    'id' => $id,
                    'number' => (string) $rows[$id]['number'],
                    'document' => (int) $rows[$id]['document_id'],
                    'open' => (int) $rows[$id]['open'],
                    'gross' => $p['gross'],
                    'discount' => $p['discount'],
                    'posted' => (string) $rows[$id]['posting_date'],
                ];
            }
            if ([] === $placed) {
                continue;
            }
            $pairs[] = [
                'key' => self::key($pair->credit->id, -$pair->credit->open, $placed),
                'party_id' => (int) $credit['party_id'],
                'code' => (string) $credit['code'],
                'name' => (string) $credit['name'],
                'currency' => (string) $credit['currency'],
                'credit' => $pair->credit->id,
                'credit_number' => (string) $credit['number'],
                'credit_document' => (int) $credit['document_id'],
                'credit_kind' => (string) $credit['kind'],
                'amount' => -$pair->credit->open,
                'posted' => (string) $credit['posting_date'],
                'why' => $pair->idea->why->words(),
                'items' => $placed,
            ];
        }

        return $pairs;
    }

    /**
     * All that a person sees of a pair: what is posted is just this.
     *
     * @param non-empty-list<array{id: int, gross: int, discount: int}> $placed
     */
    private static function key(int $credit, int $amount, array $placed): string
    {
        return $credit.
            ':'.
            $amount.
            ':'.
            implode(
                ',',
                array_map(static fn (array $p): string => $p['id'].'='.$p['gross'].'-'.$p['discount'], $placed),
            );
    }
}
