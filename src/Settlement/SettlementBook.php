<?php

declare(strict_types=1);

namespace Nelbix\App\Settlement;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Doctrine\ORM\Query;
use Nelbix\App\Documents\OpenItemRecord;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\Adjustment;
use Nelbix\Core\Settlement\AdjustmentKind;
use Nelbix\Core\Settlement\SettlementDraft;
use Nelbix\Core\Settlement\Settler;
use Nelbix\Core\Tax\TaxCalculator;
use Nelbix\Core\Tax\TaxCode;
use Nelbix\Core\Tax\TaxLine;
use Psr\Clock\ClockInterface;

/**
 * Keeps open items and settlements: the only place that changes what is open. Items are locked in order of id, so two
 * clerks who settle the same item get one success and one refusal. Call inside a transaction.
 */
final readonly class SettlementBook
{
    public function __construct(
        private EntityManagerInterface $entities,
        private LedgerWriter $ledger,
        private PeriodGate $periods,
        private Chart $chart,
        private Rates $rates,
        private ClockInterface $clock,
    ) {
    }

    /**
     * Locks items for this transaction and reads them fresh.
     *
     * @param list<int> $ids
     *
     * @return array<int, OpenItemRecord> by id
     *
     * @throws Refused when one does not exist in this company
     */
    public function lock(Actor $actor, array $ids): array
    {
        if ([] === $ids) {
            return [];
        }
        /** @var list<OpenItemRecord> $found */
        $found = $this->entities->createQuery('SELECT i FROM '.OpenItemRecord::class.' i WHERE i.id IN (:ids) AND i.companyId = :company ORDER BY i.id')
            ->setParameter('ids', array_values(array_unique($ids)), ArrayParameterType::INTEGER)->setParameter('company', $actor->companyId)
            ->setLockMode(LockMode::PESSIMISTIC_WRITE)->setHint(Query::HINT_REFRESH, true)->getResult();
        $items = [];
        foreach ($found as $item) {
            $items[$item->id()] = $item;
        }
        if (\count($items) !== \count(array_unique($ids))) {
            throw Refused::because('items', 'An item was not found in this company; load the page anew.');
        }

        return $items;
    }

    /** @throws Refused when a rule is broken, an item is reserved or was settled meanwhile */
    public function settle(Actor $actor, SettlementRequest $request): Settlement
    {
        $records = $this->lock($actor, array_map(static fn (array $p): int => $p['item'], $request->placements));
        foreach ($records as $record) {
            $this->mustBeFree($record, $request->proposalId);
            if ($record->side !== $request->side) {
                throw Refused::because('items', \sprintf('%s belongs to the other side.', $record->number));
            }
        }
        $this->periods->mustBeOpen($actor->companyId, $request->date, [$request->side], 'date');
        $draft = $this->draft($actor, $request, $records);
        $first = $draft->lines[0]->item;
        $rate = $this->rateOf($actor, $request, $first->currency);
        $settlement = new Settlement($actor->companyId, $request->side, $first->party, $first->currency, $request->date, (string) $rate, $request->documentId, $draft->exchange, $actor->userId, $this->clock->now());
        $this->entities->persist($settlement);
        foreach ($draft->lines as $line) {
            $record = $records[$line->item->id];
            $record->open -= $line->applied;
            $record->openBase -= $line->appliedBase;
            $record->lastMovedOn = Day::latest($record->lastMovedOn, $request->date);
            $this->entities->persist(new SettlementLine($settlement, $line->item->id, $line->applied, $line->appliedBase));
        }
        foreach ($draft->adjustments as ['adjustment' => $adjustment, 'base' => $base]) {
            $this->entities->persist(new SettlementAdjustment($settlement, $adjustment->item, $adjustment->kind, $adjustment->amount, $base, $adjustment->account));
        }
        $this->entities->flush();
        if (!$draft->entry->isEmpty()) {
            $this->ledger->write($actor, $draft->entry, $request->date, $request->text, [$request->side], null, $settlement->id());
        }

        return $settlement;
    }

    /**
     * The same worked out without storing it, for the entry panel.
     *
     * @param array<int, OpenItemRecord|OpenItem> $records by id
     */
    public function draft(Actor $actor, SettlementRequest $request, array $records): SettlementDraft
    {
        $items = array_map(static fn (OpenItemRecord|OpenItem $r): OpenItem => $r instanceof OpenItem ? $r : self::core($r), $records);
        $placements = array_map(static fn (array $p): array => ['item' => $items[$p['item']], 'applied' => $p['applied']], $request->placements);
        $adjustments = array_map(fn (array $a): Adjustment => $this->adjustment($actor, $request->side, $a, $items[$a['item']] ?? throw Refused::because('adjustments', 'A discount must belong to an item that is settled here.')), $request->adjustments);
        $settler = new Settler($actor->baseCurrency, $this->chart->role($actor->companyId, AccountRole::ExchangeRealised));
        $currency = [] === $placements ? $actor->baseCurrency : $placements[0]['item']->currency;

        return $settler->settle($placements, $adjustments, $request->date, $this->rateOf($actor, $request, $currency), $request->text);
    }

    /** Opens the items of a settlement again and reverses what it posted. The row is locked; undoing twice is refused. */
    public function undo(Actor $actor, int $settlementId, ?Day $on = null): Settlement
    {
        $itemIds = array_map('intval', $this->entities->getConnection()->fetchFirstColumn('SELECT item_id FROM settlement_line WHERE settlement_id = ?', [$settlementId]));
        $records = $this->lock($actor, $itemIds);
        $settlement = $this->entities->find(Settlement::class, $settlementId, LockMode::PESSIMISTIC_WRITE);
        if (null === $settlement || $settlement->companyId !== $actor->companyId) {
            throw Refused::because('', 'There is no such settlement in this company.');
        }
        $this->entities->refresh($settlement, LockMode::PESSIMISTIC_WRITE);
        if (null !== $settlement->undoneOn) {
            throw Refused::because('', \sprintf('This settlement was already undone on %s.', $settlement->undoneOn->long()));
        }
        foreach ($records as $record) {
            $this->mustBeFree($record, null);
        }
        $day = $on ?? $this->periods->firstOpen($actor->companyId, $settlement->settledOn, [$settlement->side]);
        $this->periods->mustBeOpen($actor->companyId, $day, [$settlement->side], 'date');
        if ($day->isBefore($settlement->settledOn)) {
            throw Refused::because('date', \sprintf('The settlement is dated %s; it cannot be undone before that.', $settlement->settledOn->long()));
        }
        foreach ($this->entities->getRepository(SettlementLine::class)->findBy(['settlement' => $settlement]) as $line) {
            $record = $records[$line->itemId];
            $record->open += $line->applied;
            $record->openBase += $line->appliedBase;
            $record->lastMovedOn = Day::latest($record->lastMovedOn, $day);
        }
        $settlement->undoneOn = $day;
        $settlement->undoneById = $actor->userId;
        $settlement->undoneAt = $this->clock->now();
        $this->entities->flush();
        $entry = $this->entities->getConnection()->fetchAssociative('SELECT id, number FROM journal_entry WHERE settlement_id = ? AND reverses_id IS NULL', [$settlementId]);
        if (false !== $entry) {
            $this->ledger->write($actor, $this->ledger->draftOf((int) $entry['id'])->reversed(), $day, 'Undo of '.$entry['number'], [$settlement->side], null, $settlementId, (int) $entry['id']);
        }

        return $settlement;
    }

    /** @throws Refused naming the proposal that holds the item */
    private function mustBeFree(OpenItemRecord $record, ?int $proposalId): void
    {
        if (null === $record->reservedById || $record->reservedById === $proposalId) {
            return;
        }
        $number = $this->entities->getConnection()->fetchOne('SELECT number FROM proposal WHERE id = ?', [$record->reservedById]);
        throw Refused::because('items', \sprintf('%s is reserved by payment proposal %s; drop it there first.', $record->number, $number));
    }

    public static function core(OpenItemRecord $r): OpenItem
    {
        return new OpenItem($r->id(), $r->side, $r->partyId, $r->kind, $r->number, $r->accountId, $r->currency, $r->original, $r->originalBase, $r->open, $r->openBase, $r->postingDate, $r->dueDate);
    }

    private function rateOf(Actor $actor, SettlementRequest $request, string $currency): BigDecimal
    {
        return $request->rate ?? $this->rates->on($actor->companyId, $currency, $actor->baseCurrency, $request->date);
    }

    /** @param array{item: int, kind: AdjustmentKind, amount: int} $a */
    private function adjustment(Actor $actor, Side $side, array $a, OpenItem $item): Adjustment
    {
        $role = match ($a['kind']) {
            AdjustmentKind::Discount => $side->discountRole(),
            AdjustmentKind::WriteOff => AccountRole::SmallDifferences,
            AdjustmentKind::Withholding => $side->withholdingRole(),
            AdjustmentKind::BadDebt => AccountRole::BadDebt,
            AdjustmentKind::BankCharge => AccountRole::BankCharges,
        };

        return new Adjustment($a['kind'], $a['item'], $a['amount'], $this->chart->role($actor->companyId, $role), AdjustmentKind::Discount === $a['kind'] ? $this->correctedTax($actor, $item, $a['amount']) : []);
    }

    /**
     * The tax inside a discount, for codes that say a discount corrects tax; valued at the invoice's rate.
     *
     * @return list<array{account: int, amount: int, base: int}>
     */
    private function correctedTax(Actor $actor, OpenItem $item, int $amount): array
    {
        $rows = $this->entities->getConnection()->fetchAllAssociative(
            'SELECT c.code, c.rate, c.account_id, c.reverse_account_id, c.inclusive, c.recoverable_percent, c.discount_corrects_tax, t.net, t.tax, t.recoverable, d.net AS document_net, d.rate AS document_rate
             FROM open_item i JOIN document d ON d.id = i.document_id JOIN document_tax t ON t.document_id = d.id JOIN tax_code c ON c.id = t.tax_code_id WHERE i.id = ? ORDER BY c.code',
            [$item->id],
        );
        if ([] === array_filter($rows, static fn (array $r): bool => (bool) $r['discount_corrects_tax'])) {
            return [];
        }
        $taxes = [];
        $accounts = [];
        foreach ($rows as $r) {
            $code = new TaxCode((string) $r['code'], BigDecimal::of($r['rate']), (bool) $r['inclusive'], BigDecimal::of($r['recoverable_percent']), null !== $r['reverse_account_id'], (bool) $r['discount_corrects_tax']);
            $taxes[$code->code] = new TaxLine($code, (int) $r['net'], (int) $r['tax'], Side::Payables === $item->side ? (int) $r['recoverable'] : (int) $r['tax']);
            $accounts[$code->code] = [(int) $r['account_id'], null === $r['reverse_account_id'] ? null : (int) $r['reverse_account_id']];
        }
        $rate = BigDecimal::of($rows[0]['document_rate']);
        $sign = $amount < 0 ? -1 : 1;
        $parts = [];
        foreach (TaxCalculator::splitDiscount(abs($amount), (int) $rows[0]['document_net'], $taxes)['taxes'] as $name => $tax) {
            $base = InvoiceEntry::base($tax, $item->currency, $actor->baseCurrency, $rate);
            $parts[] = ['account' => $accounts[$name][0], 'amount' => $sign * $tax, 'base' => $sign * $base];
            if (null !== $accounts[$name][1]) {
                $parts[] = ['account' => $accounts[$name][1], 'amount' => -$sign * $tax, 'base' => -$sign * $base];
            }
        }

        return $parts;
    }
}
