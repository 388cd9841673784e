<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Keyset;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Proposal\Candidate;
use Nelbix\Core\Terms\EarlyDiscount;

/**
 * What is overdue, falls due soon, or earns a discount: the database picks and sorts, the core says what the discount is worth.
 *
 * @phpstan-type DueRow array{id: int, code: string, number: string, due: Day, days: int, through: ?Day, discount: int,
 *     yield: ?string, currency: string, original: int, open: int, base: int, held: bool, reserved: ?string,
 *     their_number: string, name: string, document_id: int}
 */
final readonly class DueQuery
{
    public const WHICH = ['overdue', 'soon', 'discounts'];

    /** So many stand on a page; a file has them all. */
    private const PAGE = 200;

    /** The first step of a discount that still holds, with its grace. */
    private const STEP = <<<'SQL'
    JOIN item_discount x ON x.item_id = i.id AND x.through <= :until AND x.through >= :today - INTERVAL i.grace_days DAY
        AND NOT EXISTS (SELECT 1 FROM item_discount y WHERE y.item_id = i.id AND y.through < x.through
        AND y.through >= :today - INTERVAL i.grace_days DAY)
    SQL;

    public function __construct(
        private Connection $db,
        private CandidateQuery $candidates,
        private ItemLabels $labels,
    ) {
    }

    /**
     * A page of them.
     *
     * @param string $which one of WHICH
     * @param Day $until the last day of what is soon, or of a discount
     * @param string|null $after where it begins, of the page before
     *
     * @return array{rows: list<DueRow>, next: ?string}
     */
    public function page(int $companyId, string $which, Day $today, Day $until, ?string $after = null): array
    {
        [$found, $next] = self::keyset($which)->page(
            $this->found($companyId, $which, $today, $until, $after, self::PAGE + 1),
            self::PAGE,
        );

        return ['rows' => $this->rows($companyId, array_column($found, 'id'), $today), 'next' => $next];
    }

    /** @return \Generator<int, DueRow> all of them */
    public function each(int $companyId, string $which, Day $today, Day $until): \Generator
    {
        $read = fn (?string $after, int $most): array => $this->found($companyId, $which, $today, $until, $after, $most);
        $ids = [];
        foreach (self::keyset($which)->each($read) as $found) {
            $ids[] = $found['id'];
            if (1000 === \count($ids)) {
                yield from $this->rows($companyId, $ids, $today);
                $ids = [];
            }
        }
        yield from $this->rows($companyId, $ids, $today);
    }

    /** @return array{count: int, base: int} of all of them, base currency */
    public function foot(int $companyId, string $which, Day $today, Day $until): array
    {
        [$from, $with] = self::from($companyId, $which, $today, $until);
        $sum = $this->db->fetchNumeric("SELECT COUNT(*), COALESCE(SUM(i.open_base), 0) $from", $with) ?: [0, 0];

        return ['count' => (int) $sum[0], 'base' => (int) $sum[1]];
    }

    /** Discounts by the day they end, the larger first; the others by due date. */
    private static function keyset(string $which): Keyset
    {
        return new Keyset('discounts' === $which ? ['x.through', '-x.amount', 'i.id'] : ['i.due_date', 'i.id']);
    }

    /** @return array{string, array<string, string|int>} FROM and WHERE, and their values */
    private static function from(int $companyId, string $which, Day $today, Day $until): array
    {
        $with = ['company' => $companyId, 'today' => $today->iso()];
        $where = "i.company_id = :company AND i.side = 'payables' AND i.is_open = 1 AND i.open > 0";
        if ('overdue' === $which) {
            return ["FROM open_item i WHERE $where AND i.due_date < :today", $with];
        }
        $with['until'] = $until->iso();

        return 'soon' === $which
            ? ["FROM open_item i WHERE $where AND i.due_date BETWEEN :today AND :until", $with]
            : ['FROM open_item i '.self::STEP." WHERE $where", $with];
    }

    /** @return list<array<string, mixed>> */
    private function found(int $companyId, string $which, Day $today, Day $until, ?string $after, int $most): array
    {
        $keyset = self::keyset($which);
        [$from, $with] = self::from($companyId, $which, $today, $until);
        [$later, $place] = $keyset->after($after);

        return array_map(
            static fn (array $r): array => [...$r, 'id' => (int) $r['id']],
            $this->db->fetchAllAssociative(
                "SELECT i.id, {$keyset->select()} $from$later ORDER BY {$keyset->order()} LIMIT $most",
                [...$with, ...$place],
            ),
        );
    }

    /**
     * @param list<int> $ids in their order
     *
     * @return list<DueRow>
     */
    private function rows(int $companyId, array $ids, Day $today): array
    {
        if ([] === $ids) {
            return [];
        }
        $labels = $this->labels->of($companyId, $ids);
        $rows = [];
        foreach ($this->candidates->open($companyId, $ids) as $candidate) {
            $rows[$candidate->item->id] = [...self::row($candidate, $today), ...$labels[$candidate->item->id]];
        }

        return array_values(array_filter(array_map(static fn (int $id): ?array => $rows[$id] ?? null, $ids)));
    }

    /**
     * @return array{id: int, code: string, number: string, due: Day, days: int, through: ?Day, discount: int, yield: ?string,
     *     currency: string, original: int, open: int, base: int, held: bool, reserved: ?string}
     */
    private static function row(Candidate $c, Day $today): array
    {
        $step = $c->item->discount?->stepOn($today);
        $yield =
            null === $step
                ? null
                : EarlyDiscount::yearlyYield($step->percent, $step->through->daysUntil($c->item->due));

        return [
            'id' => $c->item->id,
            'code' => $c->payee->code,
            'number' => $c->item->number,
            'due' => $c->item->due,
            'days' => $c->item->due->daysUntil($today),
            'through' => $step?->through,
            'discount' => $c->item->discountOn($today),
            'yield' => null === $step ? null : (null === $yield ? 'at once' : (string) $yield),
            'currency' => $c->item->currency,
            'original' => $c->item->original,
            'open' => $c->item->open,
            'base' => $c->item->openBase,
            'held' => $c->held,
            'reserved' => $c->reservedBy,
        ];
    }
}
