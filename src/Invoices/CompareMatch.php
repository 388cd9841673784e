<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Nelbix\App\Goods\AccruedLines;
use Nelbix\App\Goods\TakenOf;
use Nelbix\App\Goods\VendorTolerances;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Matching\Compared;
use Nelbix\Core\Matching\Over;
use Nelbix\Core\Matching\ThreeWayMatch;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Tax\TaxResult;

/** Compares an invoice with what was agreed and what came, and keeps what does not fit with the document. */
final readonly class CompareMatch
{
    public function __construct(
        private VendorTolerances $tolerances,
        private TakenOf $takenOf,
        private AccruedLines $accrued,
        private Settings $settings,
        private Bulk $bulk,
    ) {
    }

    /**
     * @param array<int, OrderedGoods> $goods what its lines take of deliveries, or wait for, under their keys
     * @param BigDecimal $rate of the invoice
     *
     * @return list<Mismatch>
     */
    public function mismatches(Actor $actor, InvoiceInput $input, TaxResult $tax, array $goods, BigDecimal $rate): array
    {
        if (null === $input->partyId) {
            return [];
        }
        $settings = $this->settings->of($actor->companyId)->values;
        if ([] === $goods) {
            return 'held' === $settings['match_none'] ? $this->unmatched($actor, $input, $input->partyId) : [];
        }
        $compared = $this->compared($actor, $input, $tax, $goods, $rate, 'held' === $settings['match_not_received']);
        $within = $this->tolerances->of($actor->companyId, $input->partyId);
        $mismatches = [];
        foreach (
            ThreeWayMatch::over(array_values($compared), $within, 'held' === $settings['match_not_ordered']) as [
                'key' => $k,
                'over' => $over,
            ]
        ) {
            $mismatches[] =
                null === $k
                    ? new Mismatch(null, $over, self::ofTotal($compared, $actor->baseCurrency), self::orderedBy($goods))
                    : new Mismatch(
                        (int) $k,
                        $over,
                        self::words($over, $goods[(int) $k], $compared[(int) $k], $input->currency),
                        $goods[(int) $k]->orderedBy,
                    );
        }

        return $mismatches;
    }

    /** @return list<Mismatch> one for an invoice that names no goods, of a vendor of whom some are delivered or to come */
    private function unmatched(Actor $actor, InvoiceInput $input, int $partyId): array
    {
        if (Side::Payables !== $input->side || DocumentKind::Invoice !== $input->kind) {
            return [];
        }
        ['lines' => $came, 'to_come' => $toCome] = $this->accrued->waiting($actor->companyId, $partyId);

        return 0 === $came + $toCome
            ? []
            : [
                new Mismatch(
                    null,
                    Over::NotOrdered,
                    \sprintf(
                        'it names no goods, though %d %s of this vendor could be what it invoices',
                        $came + $toCome,
                        1 === $came + $toCome ? 'line' : 'lines',
                    ),
                    null,
                ),
            ];
    }

    /** Keeps what does not fit; the document is held already. */
    public function keep(Actor $actor, int $documentId, InvoiceInput $input, InvoicePlan $plan): void
    {
        $positions = array_flip(array_keys($input->lines));
        $findings = [];
        foreach ($plan->mismatches as $m) {
            $findings[] = new MatchFinding(
                $actor->companyId,
                $documentId,
                null === $m->line ? null : $positions[$m->line] + 1,
                $m->over,
                mb_strimwidth($m->said, 0, 255, '…'),
                $m->orderedBy,
            );
        }
        $this->bulk->insert($findings);
    }

    /**
     * @param array<int, OrderedGoods> $goods
     * @param bool $mustHaveCome what is waited for does not fit
     *
     * @return array<int, Compared> under the keys of the lines; what stands beside the goods counts in the total
     */
    private function compared(
        Actor $actor,
        InvoiceInput $input,
        TaxResult $tax,
        array $goods,
        BigDecimal $rate,
        bool $mustHaveCome,
    ): array {
        $digits = Currency::of($input->currency)->digits;
        $zero = BigDecimal::zero();
        $back = null === $input->insteadOf ? [] : $this->takenOf->orderLines($actor->companyId, $input->insteadOf);
        $compared = $sofar = [];
        foreach (array_keys($input->lines) as $k) {
            $net = $tax->lineNets[$k];
            $line = $goods[$k] ?? null;
            $base = static fn (int $minor): BigDecimal => BigDecimal::ofUnscaledValue($minor, $digits)->multipliedBy(
                $rate,
            );
            if (null === $line) {
                $compared[$k] = new Compared($k, $zero, $zero, null, $zero, true, $base($net));
                continue;
            }
            $of = $line->orderLine ?? 0;
            $before = ($line->invoiced ?? $zero)->minus($back[$of] ?? 0);
            $sofar[$of] = ($sofar[$of] ?? $before)->plus($line->quantity);
            $compared[$k] = new Compared(
                $k,
                $line->agreed,
                $line->each($net),
                $line->ordered,
                $sofar[$of],
                !$mustHaveCome || $line->received(),
                $base($line->more($net)),
            );
        }

        return $compared;
    }

    private static function words(Over $over, OrderedGoods $line, Compared $compared, string $currency): string
    {
        return match ($over) {
            Over::Price => \sprintf(
                '%s: %s each, agreed %s, %s %% more',
                $line->what,
                Typography::price($compared->invoiced, $currency),
                Typography::price($line->price(), $currency),
                $line->percent($compared->invoiced) ?? '0',
            ),
            Over::Quantity => \sprintf(
                '%s: %s invoiced, %s ordered',
                $line->what,
                $compared->total->stripTrailingZeros(),
                $line->ordered,
            ),
            Over::NotOrdered => \sprintf('%s: nobody ordered it', $line->what),
            Over::NotReceived => \sprintf(
                '%s: %s invoiced and not received',
                $line->what,
                $line->quantity->stripTrailingZeros(),
            ),
            Over::Total => $line->what,
        };
    }

    /** @param array<int, Compared> $compared */
    private static function ofTotal(array $compared, string $baseCurrency): string
    {
        $sum = BigDecimal::sum(
            ...array_map(static fn (Compared $c): BigDecimal => $c->difference, array_values($compared)),
        );

        return \sprintf(
            'all in all %s %s more than agreed',
            $sum->toScale(Currency::of($baseCurrency)->digits, RoundingMode::HALF_UP),
            $baseCurrency,
        );
    }

    /** @param array<int, OrderedGoods> $goods */
    private static function orderedBy(array $goods): ?int
    {
        $who = array_unique(array_map(static fn (OrderedGoods $g): ?int => $g->orderedBy, $goods));

        return 1 === \count($who) ? array_values($who)[0] : null;
    }
}
