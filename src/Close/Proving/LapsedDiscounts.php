<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Proving;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Books\DiscountSteps;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\Terms\DatedDiscount;
use Nelbix\Core\Terms\EarlyDiscount;

/**
 * Discounts that nobody took in time: each on the one day on which it lapsed, of what was open then and no credit note took, before or
 * after. Source: rules.md, Figures over a span.
 *
 * @phpstan-type Moved list<array{settled: string, undone: string|null, applied: int, credited: int}>
 */
final readonly class LapsedDiscounts
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array{party: int, document: int, day: string, amount: int}> base minor units */
    public function of(int $companyId, string $side, Day $from, Day $to): array
    {
        $found = [];
        foreach (array_chunk($this->items($companyId, $side, $from, $to), 1000) as $items) {
            $moved = $this->moved(array_map(intval(...), array_column($items, 'id')));
            foreach ($items as $r) {
                $of = $moved[(int) $r['id']] ?? [];
                $discount = self::discount($r);
                foreach (
                    $discount->lapses(static fn (Day $d): int => self::openAt((int) $r['original'], $of, $d)) as $lapse
                ) {
                    if (!$lapse['day']->isBefore($from) && !$lapse['day']->isAfter($to)) {
                        $found[] = [
                            'party' => (int) $r['party_id'],
                            'document' => (int) $r['document_id'],
                            'day' => $lapse['day']->iso(),
                            'amount' => Rounding::proportion(
                                $lapse['amount'],
                                (int) $r['original_base'],
                                (int) $r['original'],
                            ),
                        ];
                    }
                }
            }
        }

        return $found;
    }

    /**
     * What was open when the day began, less what credit notes settled then or later.
     *
     * @param Moved $moved
     */
    private static function openAt(int $original, array $moved, Day $day): int
    {
        $open = $original;
        foreach ($moved as $m) {
            $stoodThen = $m['settled'] < $day->iso() && (null === $m['undone'] || $m['undone'] >= $day->iso());
            $open -= $stoodThen ? $m['applied'] : (null === $m['undone'] ? $m['credited'] : 0);
        }

        return $open;
    }

    /** @param array<string, mixed> $r */
    private static function discount(array $r): EarlyDiscount
    {
        $steps = [];
        foreach (explode(',', (string) $r['steps']) as $step) {
            [$through, $percent, $amount] = explode(' ', $step);
            $steps[] = new DatedDiscount(Day::of($through), BigDecimal::of($percent), (int) $amount);
        }

        return new EarlyDiscount((int) $r['original'], (int) $r['discount_base'], $steps, (int) $r['grace_days']);
    }

    /** @return list<array<string, mixed>> items with a step that ends in the span, of documents that stand */
    private function items(int $companyId, string $side, Day $from, Day $to): array
    {
        $steps = DiscountSteps::STEPS;

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT i.id, i.party_id, i.document_id, i.original, i.original_base, i.discount_base, i.grace_days, $steps AS steps
            FROM open_item i
            JOIN document d ON d.id = i.document_id AND d.reversed_by_id IS NULL
            WHERE i.company_id = :company AND i.side = :side AND i.original > 0 AND EXISTS (
                SELECT 1 FROM item_discount y
                WHERE y.item_id = i.id AND DATE_ADD(y.through, INTERVAL i.grace_days + 1 DAY) BETWEEN :from AND :to)
            ORDER BY i.id
            SQL
            ,
            ['company' => $companyId, 'side' => $side, 'from' => $from->iso(), 'to' => $to->iso()],
        );
    }

    /**
     * @param list<int> $items
     *
     * @return array<int, Moved> what settled them, and how much of that was credit notes, by item
     */
    private function moved(array $items): array
    {
        $moved = [];
        $rows = $this->db->iterateAssociative(
            <<<'SQL'
            SELECT l.item_id, s.settled_on, s.undone_on, l.applied, COALESCE(n.credits, 0) AS credits, COALESCE(n.used, 0) AS used
            FROM settlement_line l
            JOIN settlement s ON s.id = l.settlement_id
            LEFT JOIN (
                SELECT o.settlement_id, SUM(ABS(o.applied)) AS used, SUM(IF(k.kind = 'credit_note', ABS(o.applied), 0)) AS credits
                FROM settlement_line o
                JOIN open_item k ON k.id = o.item_id
                WHERE o.applied < 0 AND o.settlement_id IN (SELECT x.settlement_id FROM settlement_line x WHERE x.item_id IN (:items))
                GROUP BY o.settlement_id
            ) n ON n.settlement_id = s.id
            WHERE l.item_id IN (:items)
            ORDER BY l.item_id, s.settled_on, s.id
            SQL
            ,
            ['items' => $items],
            ['items' => ArrayParameterType::INTEGER],
        );
        foreach ($rows as $r) {
            $moved[(int) $r['item_id']][] = [
                'settled' => (string) $r['settled_on'],
                'undone' => null === $r['undone_on'] ? null : (string) $r['undone_on'],
                'applied' => (int) $r['applied'],
                'credited' => 0 === (int) $r['used']
                        ? 0
                        : Rounding::proportion((int) $r['applied'], (int) $r['credits'], (int) $r['used']),
            ];
        }

        return $moved;
    }
}
