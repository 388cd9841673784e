<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Nelbix\App\Goods\VendorTolerances;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Matching\Compared;
use Nelbix\Core\Matching\Over;
use Nelbix\Core\Matching\ThreeWayMatch;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Tax\TaxResult;

/** Compares an invoice with what was agreed and what came, and keeps what does not fit with the document. */
final readonly class CompareMatch
{
    public function __construct(private VendorTolerances $tolerances, private Settings $settings, private Bulk $bulk)
    {
    }

    /**
     * @param array<int, MatchedLine> $matched
     * @param BigDecimal $rate of the invoice
     *
     * @return list<Mismatch> none for an invoice that takes no goods
     */
    public function mismatches(
        Actor $actor,
        InvoiceInput $input,
        TaxResult $tax,
        array $matched,
        BigDecimal $rate,
    ): array {
        if ([] === $matched || null === $input->partyId) {
            return [];
        }
        $compared = self::compared($input, $tax, $matched, $rate);
        $within = $this->tolerances->of($actor->companyId, $input->partyId);
        $onlyOrdered = 'held' === $this->settings->of($actor->companyId)->values['match_not_ordered'];
        $mismatches = [];
        foreach (
            ThreeWayMatch::over(array_values($compared), $within, $onlyOrdered) as ['key' => $k, 'over' => $over]
        ) {
            $line = null === $k ? null : $matched[(int) $k];
            $mismatches[] = new Mismatch(
                null === $k ? null : (int) $k,
                $over,
                null === $line || null === $k
                    ? self::ofTotal($compared, $actor->baseCurrency)
                    : self::words($over, $line, $compared[(int) $k], $input->currency),
                null === $line ? self::orderedBy($matched) : $line->goods->orderedBy,
            );
        }

        return $mismatches;
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
     * @param array<int, MatchedLine> $matched
     *
     * @return array<int, Compared> under the keys of the lines; what stands beside the goods counts in the total
     */
    private static function compared(InvoiceInput $input, TaxResult $tax, array $matched, BigDecimal $rate): array
    {
        $digits = Currency::of($input->currency)->digits;
        $compared = $sofar = [];
        foreach (array_keys($input->lines) as $k) {
            $net = $tax->lineNets[$k];
            $line = $matched[$k] ?? null;
            $base = static fn (int $minor): BigDecimal => BigDecimal::ofUnscaledValue($minor, $digits)->multipliedBy(
                $rate,
            );
            if (null === $line) {
                $compared[$k] = new Compared(
                    $k,
                    BigDecimal::zero(),
                    BigDecimal::zero(),
                    null,
                    BigDecimal::zero(),
                    true,
                    $base($net),
                );
                continue;
            }
            $of = $line->goods->orderLine ?? 0;
            $sofar[$of] = ($sofar[$of] ?? ($line->goods->invoiced ?? BigDecimal::zero()))->plus($line->part->quantity);
            $compared[$k] = new Compared(
                $k,
                $line->goods->agreed,
                MatchedLine::each($net, $line->part->quantity, $digits),
                $line->goods->ordered,
                $sofar[$of],
                true,
                $base($line->more($net)),
            );
        }

        return $compared;
    }

    private static function words(Over $over, MatchedLine $line, Compared $compared, string $currency): string
    {
        $goods = $line->goods;
        $what = '' === $goods->text ? $goods->delivery : $goods->text;

        return match ($over) {
            Over::Price => \sprintf(
                '%s: %s each, agreed %s, %s %% more',
                $what,
                Typography::price($compared->invoiced, $currency),
                Typography::price($goods->agreed ?? $goods->price, $currency),
                $line->percent($compared->invoiced) ?? '0',
            ),
            Over::Quantity => \sprintf(
                '%s: %s invoiced, %s ordered',
                $what,
                $compared->total->stripTrailingZeros(),
                $goods->ordered,
            ),
            Over::NotOrdered => \sprintf('%s: nobody ordered it', $what),
            Over::NotReceived => \sprintf('%s: not received', $what),
            Over::Total => $what,
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
            $sum->toScale(2, \Brick\Math\RoundingMode::HALF_UP),
            $baseCurrency,
        );
    }

    /** @param array<int, MatchedLine> $matched */
    private static function orderedBy(array $matched): ?int
    {
        $who = array_unique(array_map(static fn (MatchedLine $m): ?int => $m->goods->orderedBy, $matched));

        return 1 === \count($who) ? array_values($who)[0] : null;
    }
}
