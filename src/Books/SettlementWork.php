<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Brick\Math\BigDecimal;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\Adjustment;
use Nelbix\Core\Settlement\AdjustmentKind;
use Nelbix\Core\Settlement\Placement;
use Nelbix\Core\Settlement\SettlementDraft;
use Nelbix\Core\Settlement\Settler;

/**
 * Works a settlement out: what the core makes of its placements and adjustments, with the accounts, rates and taxes of the company. Stores
 * nothing.
 *
 * @phpstan-type Taxes array{corrected: array<int, non-empty-list<array<string, mixed>>>, prepaid: array<int, TaxOfPrepayment>,
 *     debts: array<int, WrittenOff>}
 */
final readonly class SettlementWork
{
    /** What corrects the tax of an invoice where its code says so. */
    private const CORRECTING = [AdjustmentKind::Discount, AdjustmentKind::LateDiscount, AdjustmentKind::BadDebt];

    public function __construct(
        private Chart $chart,
        private Rates $rates,
        private CorrectedTax $correctedTax,
        private PrepaidTax $prepaidTax,
        private WrittenOffOf $writtenOff,
    ) {
    }

    /**
     * What the taxes of these settlements need, read once for all of them.
     *
     * @param list<SettlementRequest> $requests
     *
     * @return Taxes
     */
    public function taxes(Actor $actor, array $requests): array
    {
        $owedToUs = array_filter($requests, static fn (SettlementRequest $r): bool => Side::Receivables === $r->side);
        $items = array_merge(
            ...array_map(static fn (SettlementRequest $r): array => array_column($r->placements, 'item'), $owedToUs),
        );

        $debts = $this->writtenOff->these(
            array_values(
                array_filter(
                    array_merge(
                        ...array_map(
                            static fn (SettlementRequest $r): array => array_column($r->adjustments, 'recovers'),
                            $requests,
                        ),
                    ),
                ),
            ),
        );

        return [
            'debts' => $debts,
            'corrected' => $this->correctedTax->of([
                ...self::discounted($requests),
                ...array_map(static fn (WrittenOff $w): int => $w->item, array_values($debts)),
            ]),
            'prepaid' => $this->prepaidTax->of($actor, $items),
        ];
    }

    /**
     * For the entry panel.
     *
     * @param array<int, OpenItem> $items by id
     * @param array<int, non-empty-list<array<string, mixed>>>|null $corrected taxes of items that are not stored yet, by item
     */
    public function draft(
        Actor $actor,
        SettlementRequest $request,
        array $items,
        ?array $corrected = null,
    ): SettlementDraft {
        $taxes =
            null === $corrected
                ? $this->taxes($actor, [$request])
                : ['corrected' => $corrected, 'prepaid' => [], 'debts' => []];

        return $this->out($actor, $request, $items, $taxes);
    }

    /**
     * @param array<int, OpenItem> $items by id
     * @param Taxes $taxes from taxes()
     *
     * @throws Refused
     */
    public function out(Actor $actor, SettlementRequest $request, array $items, array $taxes): SettlementDraft
    {
        $placements = array_map(
            static fn (PlacementRequest $p): Placement => new Placement($items[$p->item], $p->applied),
            $request->placements,
        );
        foreach ($placements as $placement) {
            $item = $placement->item;
            if ($item->side !== $request->side) {
                throw Refused::because('items', \sprintf('%s belongs to the other side.', $item->number));
            }
        }
        $adjustments = [];
        foreach ($request->adjustments as $a) {
            $item =
                $items[$a->item] ??
                throw Refused::because('adjustments', 'A discount must belong to an item that is settled here.');
            $corrected =
                \in_array($a->kind, self::CORRECTING, true) && isset($taxes['corrected'][$item->id])
                    ? CorrectedTax::parts(
                        $taxes['corrected'][$item->id],
                        $item,
                        $a->amount,
                        $actor->baseCurrency,
                        $a->kind,
                    )
                    : [];
            $debt = null === $a->recovers ? null : $taxes['debts'][$a->recovers] ?? null;
            if (null !== $debt && isset($taxes['corrected'][$debt->item])) {
                $corrected = self::owedAgain($taxes['corrected'][$debt->item], $item, $a->amount, $debt, $actor);
            }
            $adjustments[] = new Adjustment(
                $a->kind,
                $a->item,
                $a->amount,
                $a->account ?? $this->chart->role($actor->companyId, self::role($request->side, $a->kind)),
                $corrected,
                $a->reason,
                $a->recovers,
            );
        }
        $settler = new Settler(
            $actor->baseCurrency,
            $this->chart->role($actor->companyId, AccountRole::ExchangeRealised),
        );
        $currency = [] === $placements ? $actor->baseCurrency : $placements[0]->item->currency;

        $draft = $settler->settle(
            $placements,
            $adjustments,
            $request->date,
            $this->rate($actor, $request, $currency),
            $request->text,
        );

        // what reverses a prepayment takes its own tax back with its entry
        return null === $request->document?->reversesId
            ? PrepaidTax::within($draft, $taxes['prepaid'], $request->text)
            : $draft;
    }

    /**
     * The tax that the write-off corrected, owed again with what is recovered; the last part takes the rest.
     *
     * @param non-empty-list<array<string, mixed>> $rows taxes of the debt
     *
     * @return list<array{account: int, amount: int, base: int}>
     */
    private static function owedAgain(array $rows, OpenItem $money, int $amount, WrittenOff $debt, Actor $actor): array
    {
        $upTo = static fn (int $recovered): array => array_column(
            0 === $recovered
                ? []
                : CorrectedTax::parts($rows, $money, $recovered, $actor->baseCurrency, AdjustmentKind::BadDebt),
            null,
            'account',
        );
        $before = $upTo($debt->recovered);
        $parts = [];
        foreach ($upTo($debt->recovered + $amount) as $account => $part) {
            $now = [
                'account' => $account,
                'amount' => $part['amount'] - ($before[$account]['amount'] ?? 0),
                'base' => $part['base'] - ($before[$account]['base'] ?? 0),
            ];
            if (0 !== $now['amount'] || 0 !== $now['base']) {
                $parts[] = $now;
            }
        }

        return $parts;
    }

    /**
     * @param list<SettlementRequest> $requests
     *
     * @return list<int> items with a discount, or written off
     */
    private static function discounted(array $requests): array
    {
        $ids = [];
        foreach ($requests as $request) {
            foreach ($request->adjustments as $a) {
                if (\in_array($a->kind, self::CORRECTING, true)) {
                    $ids[] = $a->item;
                }
            }
        }

        return $ids;
    }

    private static function role(Side $side, AdjustmentKind $kind): AccountRole
    {
        return match ($kind) {
            AdjustmentKind::Discount, AdjustmentKind::LateDiscount => $side->discountRole(),
            AdjustmentKind::WriteOff => AccountRole::SmallDifferences,
            AdjustmentKind::Withholding => $side->withholdingRole(),
            AdjustmentKind::BadDebt => AccountRole::BadDebt,
            AdjustmentKind::BankCharge => AccountRole::BankCharges,
            AdjustmentKind::Recovery => AccountRole::BadDebtsRecovered,
            AdjustmentKind::Account => throw Refused::because(
                'account',
                'The account is missing; choose one.',
                ProblemKind::Missing,
            ),
        };
    }

    public function rate(Actor $actor, SettlementRequest $request, string $currency): BigDecimal
    {
        // items set off against each other bring their own base; only an adjustment has to be valued
        if (null === $request->rate && [] === $request->adjustments) {
            return $this->rates->find($actor->companyId, $currency, $actor->baseCurrency, $request->date) ??
                BigDecimal::one();
        }

        return $request->rate ?? $this->rates->on($actor->companyId, $currency, $actor->baseCurrency, $request->date);
    }
}
