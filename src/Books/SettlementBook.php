<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\SettlementDraft;
use Psr\Clock\ClockInterface;

/**
 * Keeps open items and settlements: the only place that changes what is open. Items are locked in order of id, so two
 * clerks who settle the same item get one success and one refusal. Call inside a transaction.
 */
final readonly class SettlementBook
{
    public function __construct(
        private EntityManagerInterface $entities,
        private ItemLocks $items,
        private LedgerWriter $ledger,
        private PeriodGate $periods,
        private ClockInterface $clock,
        private Bulk $bulk,
        private AdjustmentLimits $limits,
        private SettlementWork $work,
        private PrepaidTax $prepaidTax,
        private LotGuard $lots,
        private Recoveries $recoveries,
    ) {
    }

    /**
     * Settles one.
     *
     * @return int the settlement's id
     *
     * @throws Refused when a rule is broken, an item is reserved or was settled meanwhile
     */
    public function settle(Actor $actor, SettlementRequest $request): int
    {
        return $this->settleAll($actor, [$request])[0];
    }

    /**
     * Settles many, in their order, in a handful of statements. What was watched of their items before is not to be trusted after.
     *
     * @param non-empty-list<SettlementRequest> $requests
     *
     * @return non-empty-list<int> the settlements' ids
     *
     * @throws Refused
     */
    public function settleAll(Actor $actor, array $requests): array
    {
        $items = $this->items->held(
            $actor,
            array_merge(
                ...array_map(static fn (SettlementRequest $r): array => array_column($r->placements, 'item'), $requests),
            ),
        );
        $this->recoveries->hold($requests);
        $taxes = $this->work->taxes($actor, $requests);
        $limits = $this->limits->of($actor, $requests);
        $undone = $this->items->lastUndone(array_keys($items));
        $settlements = $lines = $adjustments = $taken = $orders = $moved = $open = [];
        $now = $this->clock->now();
        foreach ($requests as $n => $request) {
            foreach ($request->placements as $placement) {
                self::mustBeFree(
                    $items[$placement->item]->item->number,
                    $items[$placement->item]->reservedBy,
                    $request->proposalId,
                );
            }
            if (!isset($open[$request->date->iso().$request->side->value])) {
                $this->periods->mustBeOpen($actor->companyId, $request->date, [$request->side], 'date');
                $open[$request->date->iso().$request->side->value] = true;
            }
            $placed = array_map(
                static fn (PlacementRequest $p): OpenItem => $items[$p->item]->item,
                array_column($request->placements, null, 'item'),
            );
            $one = reset($placed);
            if ([] !== $request->adjustments && false !== $one) {
                $rate = $this->work->rate($actor, $request, $one->currency);
                $this->limits->check($actor, $request, $placed, $limits, $rate);
                $this->recoveries->check($request, $placed, $taxes['debts']);
            }
            $this->mustNotBeBefore($request->date, $undone, $placed);
            $draft = $this->work->out($actor, $request, $placed, $taxes);
            $first = $draft->lines[0]->item;
            $settlements[$n] = $settlement = new Settlement(
                $actor->companyId,
                $request->side,
                $first->party,
                $first->currency,
                $request->date,
                (string) $this->work->rate($actor, $request, $first->currency),
                $request->document?->id,
                $draft->exchange,
                $actor->userId,
                $now,
            );
            foreach ($draft->lines as $line) {
                $left = $line->item->less($line->applied, $line->appliedBase);
                $items[$line->item->id] = $items[$line->item->id]->as($left);
                $moved[$line->item->id] = [
                    $left->open,
                    $left->openBase,
                    Day::latest($moved[$line->item->id][2] ?? $request->date, $request->date),
                ];
                $lines[] = new SettlementLine($settlement, $line->item->id, $line->applied, $line->appliedBase);
            }
            foreach ($draft->adjustments as ['adjustment' => $adjustment, 'base' => $base]) {
                $adjustments[] = new SettlementAdjustment(
                    $settlement,
                    $adjustment->item,
                    $adjustment->kind,
                    $adjustment->amount,
                    $base,
                    $adjustment->account,
                    mb_substr($adjustment->reason, 0, 255),
                    $adjustment->recovers,
                );
            }
            foreach ($draft->prepaid as $prepaid) {
                $taken[] = [$settlement, $prepaid];
                $taxes['prepaid'][$prepaid['item']] = $taxes['prepaid'][$prepaid['item']]->less(
                    $prepaid['tax'],
                    $prepaid['base'],
                );
            }
            foreach ($request->adjustments as $a) {
                $taxes['debts'] = Recoveries::after($a, $taxes['debts']);
            }
            if (!$draft->entry->isEmpty()) {
                $orders[$n] = $draft->entry;
            }
        }
        foreach ([array_values($settlements), $lines, $adjustments] as $records) {
            $this->bulk->insert($records);
        }
        $this->prepaidTax->keep($taken);
        $this->move($moved);
        $entries = [];
        foreach ($orders as $n => $draft) {
            $entries[] = new EntryOrder(
                $draft,
                $requests[$n]->date,
                $requests[$n]->said(...),
                [$requests[$n]->side],
                Source::settlement($settlements[$n]->id()),
            );
        }
        $this->ledger->writeAll($actor, $entries);

        return array_map(static fn (Settlement $s): int => $s->id(), array_values($settlements));
    }

    /**
     * The same worked out without storing it, for the entry panel.
     *
     * @param array<int, OpenItem> $items by id
     * @param array<int, non-empty-list<array<string, mixed>>>|null $taxes of items that are not stored yet, by item
     */
    public function draft(Actor $actor, SettlementRequest $request, array $items, ?array $taxes = null): SettlementDraft
    {
        return $this->work->draft($actor, $request, $items, $taxes);
    }

    /** @param array<int, array{int, int, Day}> $moved open, open base and day by item */
    private function move(array $moved): void
    {
        foreach (array_chunk($moved, 500, true) as $chunk) {
            $rows = implode(
                ' UNION ALL ',
                array_map(
                    static fn (int $id, array $m): string => \sprintf(
                        "SELECT %d AS id, %d AS open, %d AS open_base, '%s' AS moved",
                        $id,
                        $m[0],
                        $m[1],
                        $m[2]->iso(),
                    ),
                    array_keys($chunk),
                    $chunk,
                ),
            );
            $this->entities
                ->getConnection()
                ->executeStatement(
                    'UPDATE open_item i JOIN ('.
                        $rows.
                        ') m ON m.id = i.id SET i.open = m.open, i.open_base = m.open_base, i.last_moved_on = '.
                        'GREATEST(i.last_moved_on, CAST(m.moved AS DATE))',
                );
        }
    }

    /** Opens the items of a settlement again and reverses what it posted. The row is locked; undoing twice is refused. */
    public function undo(Actor $actor, int $settlementId, ?Day $on = null): Settlement
    {
        $itemIds = array_map(
            'intval',
            $this->entities
                ->getConnection()
                ->fetchFirstColumn('SELECT item_id FROM settlement_line WHERE settlement_id = ?', [$settlementId]),
        );
        $records = $this->items->lock($actor, $itemIds);
        $settlement = $this->entities->find(Settlement::class, $settlementId, LockMode::PESSIMISTIC_WRITE);
        if (null === $settlement || $settlement->companyId !== $actor->companyId) {
            throw Refused::because('', 'There is no such settlement in this company.', ProblemKind::Unknown);
        }
        $this->entities->refresh($settlement, LockMode::PESSIMISTIC_WRITE);
        if (null !== $settlement->undoneOn) {
            throw Refused::because(
                '',
                \sprintf('This settlement was already undone on %s.', $settlement->undoneOn->long()),
            );
        }
        $this->lots->mustBeThrough(LotOf::Settlements, [$settlementId], 'This settlement');
        $this->recoveries->mustNotStand($settlementId);
        foreach ($records as $record) {
            self::mustBeFree($record->number, $record->reservation(), null);
        }
        $day = $on ?? $this->periods->firstOpen($actor->companyId, $settlement->settledOn, [$settlement->side]);
        $this->periods->mustBeOpen($actor->companyId, $day, [$settlement->side], 'date');
        if ($day->isBefore($settlement->settledOn)) {
            throw Refused::because(
                'date',
                \sprintf(
                    'The settlement is dated %s; it cannot be undone before that.',
                    $settlement->settledOn->long(),
                ),
            );
        }
        foreach (
            $this->entities->getRepository(SettlementLine::class)->findBy(['settlement' => $settlement]) as $line
        ) {
            $record = $records[$line->itemId];
            $record->open += $line->applied;
            $record->openBase += $line->appliedBase;
            $record->lastMovedOn = Day::latest($record->lastMovedOn, $day);
        }
        $settlement->undoneOn = $day;
        $settlement->undoneById = $actor->userId;
        $settlement->undoneAt = $this->clock->now();
        $this->entities->flush();
        $entry = $this->entities
            ->getConnection()
            ->fetchAssociative(
                'SELECT id, number FROM journal_entry WHERE source_kind = \'settlement\' AND source_id = ? AND reverses_id IS NULL',
                [$settlementId],
            );
        if (false !== $entry) {
            $this->ledger->write(
                $actor,
                new EntryOrder(
                    $this->ledger->draftOf((int) $entry['id'])->reversed(),
                    $day,
                    'Undo of '.$entry['number'],
                    [$settlement->side],
                    Source::settlement($settlementId),
                    (int) $entry['id'],
                ),
            );
        }

        return $settlement;
    }

    /**
     * @param array<int, Day> $undone by item
     * @param array<int, OpenItem> $items
     *
     * @throws Refused naming the item and the first day that does
     */
    private function mustNotBeBefore(Day $date, array $undone, array $items): void
    {
        foreach ($items as $id => $item) {
            if (isset($undone[$id]) && $date->isBefore($undone[$id])) {
                throw Refused::because(
                    'date',
                    \sprintf(
                        '%s was opened again on %s; nothing settles it before that day. Date it then or later.',
                        $item->number,
                        $undone[$id]->long(),
                    ),
                );
            }
        }
    }

    /** @throws Refused naming what holds the item */
    private static function mustBeFree(string $item, ?Reservation $by, ?int $proposalId): void
    {
        if (null !== $by && $by->id !== $proposalId) {
            throw Refused::because('items', $by->refusal($item));
        }
    }
}
