<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Brick\Math\BigDecimal;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;
use Nelbix\Core\Tax\Withholding;
use Nelbix\Core\Terms\EarlyDiscount;

/**
 * How much discount, withholding and small difference may help to close an item, whichever door the settlement comes through.
 * Source: rules.md, Payment terms, Tax, Settlements.
 */
final readonly class AdjustmentLimits
{
    public function __construct(
        private DiscountSteps $discountSteps,
        private WithholdingRules $withholdingRules,
        private LapsedDiscount $lapsed,
        private Settings $settings,
        private GivenUp $givenUp,
    ) {
    }

    /**
     * What the limits of these items need, read once for many settlements.
     *
     * @param list<SettlementRequest> $requests
     *
     * @return array{discounts: array<int, EarlyDiscount>, withholding: array<int, Withholding>}
     */
    public function of(Actor $actor, array $requests): array
    {
        $ids = [];
        foreach ($requests as $request) {
            foreach ($request->adjustments as $a) {
                $ids[$request->side->value][$a->kind->value][] = $a->item;
            }
        }
        $read = ['discounts' => [], 'withholding' => []];
        foreach (Side::cases() as $side) {
            $of = static fn (AdjustmentKind $kind): array => array_values(
                array_unique($ids[$side->value][$kind->value] ?? []),
            );
            $read['discounts'] += $this->discountSteps->open(
                $actor->companyId,
                $side,
                array_values(array_unique([...$of(AdjustmentKind::Discount), ...$of(AdjustmentKind::LateDiscount)])),
            );
            $read['withholding'] += $this->withholdingRules->open(
                $actor->companyId,
                $side,
                $of(AdjustmentKind::Withholding),
            );
        }

        return $read;
    }

    /**
     * @param array<int, OpenItem> $items by id, as they stand before this settlement
     * @param array{discounts: array<int, EarlyDiscount>, withholding: array<int, Withholding>} $read from of()
     * @param BigDecimal $rate what an amount is worth in base currency
     *
     * @throws Refused naming the item and the most that may be taken
     */
    public function check(Actor $actor, SettlementRequest $request, array $items, array $read, BigDecimal $rate): void
    {
        $applied = array_column($request->placements, 'applied', 'item');
        $discount = [];
        foreach ($request->adjustments as $a) {
            if (AdjustmentKind::Discount === $a->kind) {
                $discount[$a->item] = ($discount[$a->item] ?? 0) + abs($a->amount);
            }
        }
        foreach ($request->adjustments as $a) {
            $item = $items[$a->item] ?? null;
            $part = $applied[$a->item] ?? 0;
            if (null === $item || 0 === $part) {
                continue; // the settler says what is wrong with it
            }
            match ($a->kind) {
                AdjustmentKind::Discount => $this->discount(
                    $request,
                    $item,
                    $part,
                    $discount[$item->id],
                    $items,
                    $read['discounts'],
                ),
                AdjustmentKind::Withholding => self::withholding(
                    $item,
                    $part,
                    -$a->amount,
                    $discount[$item->id] ?? 0,
                    $read['withholding'][$item->id] ?? null,
                    Side::Receivables === $request->side && '' === trim($a->reason),
                ),
                AdjustmentKind::WriteOff => $this->smallDifference($actor, $item, $part, abs($a->amount), $rate),
                default => null,
            };
        }
        $this->givenUp->check(
            $actor,
            $request,
            $items,
            $read['discounts'],
            $rate,
            self::moneyDay($request, $items) ?? $request->date,
        );
    }

    /** The most that a small difference on an item may be, minor units of the item's currency. */
    public function mostSmall(Actor $actor, OpenItem $item): int
    {
        $limit = $this->settings
            ->of($actor->companyId)
            ->smallDifference(abs($item->originalBase), $actor->baseCurrency);

        return $item->currency === $actor->baseCurrency || 0 === $item->originalBase
            ? $limit
            : intdiv($limit * abs($item->original), abs($item->originalBase));
    }

    /**
     * @param array<int, OpenItem> $items
     * @param array<int, EarlyDiscount> $discounts
     */
    private function discount(
        SettlementRequest $request,
        OpenItem $item,
        int $applied,
        int $discount,
        array $items,
        array $discounts,
    ): void {
        $on = self::moneyDay($request, $items);
        $most = null === $on ? 0 : ($discounts[$item->id] ?? null)?->most($item->open, $applied, $on) ?? 0;
        // an approved run may keep what a payment had taken before it was voided
        if ($discount > $most && null !== $request->proposalId && $applied === $item->open) {
            $most = max($most, $this->lapsed->of($item->id));
        }
        if ($discount > $most) {
            throw Refused::because(
                'discount',
                0 === $most
                    ? \sprintf(
                        'No discount holds for %s%s; take it away.',
                        $item->number,
                        null === $on ? ' without money' : ' on '.$on->long(),
                    )
                    : \sprintf(
                        'Settling %s of %s earns at most %s discount on %s; %s is too much.',
                        Money::of($applied, $item->currency)->decimal(),
                        $item->number,
                        Money::of($most, $item->currency)->decimal(),
                        $on?->long(),
                        Money::of($discount, $item->currency)->decimal(),
                    ),
            );
        }
    }

    private static function withholding(
        OpenItem $item,
        int $applied,
        int $withheld,
        int $discount,
        ?Withholding $rule,
        bool $unproved,
    ): void {
        if (null === $rule) {
            throw Refused::because(
                'withholding',
                \sprintf(
                    'No tax is withheld on %s; set the percent on the page of its party, or take it away.',
                    $item->number,
                ),
            );
        }
        if ($unproved) {
            throw Refused::because(
                'certificate',
                \sprintf('What a customer withholds of %s is proved by a certificate; type its number.', $item->number),
                ProblemKind::Missing,
            );
        }
        $most = $rule->on($applied, $discount, $applied === $item->open);
        if ($withheld * ($applied <=> 0) > $most * ($applied <=> 0)) {
            throw Refused::because(
                'withholding',
                \sprintf(
                    'On this part of %s %s is withheld; %s is too much.',
                    $item->number,
                    Money::of(abs($most), $item->currency)->decimal(),
                    Money::of(abs($withheld), $item->currency)->decimal(),
                ),
            );
        }
    }

    /** A small difference closes an item; what is more needs an approver and a reason. */
    private function smallDifference(Actor $actor, OpenItem $item, int $applied, int $amount, BigDecimal $rate): void
    {
        if ($applied !== $item->open) {
            throw Refused::because(
                'write_off',
                \sprintf('A small difference closes %s; settle all of it, or leave the rest owed.', $item->number),
            );
        }
        $limit = $this->settings
            ->of($actor->companyId)
            ->smallDifference(abs($item->originalBase), $actor->baseCurrency);
        $worth = InvoiceEntry::base($amount, $item->currency, $actor->baseCurrency, $rate);
        if ($worth > $limit) {
            throw Refused::because(
                'write_off',
                \sprintf(
                    'A small difference of %s %s on %s is over the tolerance of %s %s; leave it owed.',
                    Money::of($amount, $item->currency)->decimal(),
                    $item->currency,
                    $item->number,
                    Money::of($limit, $actor->baseCurrency)->decimal(),
                    $actor->baseCurrency,
                ),
            );
        }
    }

    /**
     * The day the money moved: a receipt's own day however late it is placed, of several the latest. Credits alone earn nothing.
     *
     * @param array<int, OpenItem> $items
     */
    private static function moneyDay(SettlementRequest $request, array $items): ?Day
    {
        $days = [];
        if (true === $request->document?->kind->isMoney() && null !== $request->document->postingDate) {
            $days[] = $request->document->postingDate;
        }
        foreach ($request->placements as $placement) {
            $item = $items[$placement->item] ?? null;
            if (null !== $item?->moved && $placement->applied < 0) {
                $days[] = $item->moved;
            }
        }

        return [] === $days ? null : Day::latest($days[0], ...\array_slice($days, 1));
    }
}
