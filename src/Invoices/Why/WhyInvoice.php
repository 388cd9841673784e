<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices\Why;

use Brick\Math\BigDecimal;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\Refused;
use Nelbix\Core\Tax\TaxCode;
use Nelbix\Core\Terms\DatedDiscount;
use Nelbix\Core\Terms\PaymentTerm;
use Nelbix\Core\Terms\RunsFrom;
use Nelbix\Core\Terms\TermDates;
use Nelbix\Core\Terms\TermInWords;

/** The working of an invoice's figures, for one that is typed and for one that is posted alike. Amounts are minor units. */
final class WhyInvoice
{
    /**
     * @param non-empty-list<array{due: Day, amount: int}> $parts as they stand
     *
     * @return list<Reasoned> why each part falls due when it does
     */
    public static function due(
        ?PaymentTerm $term,
        string $code,
        TermDates $dates,
        array $parts,
        string $currency,
    ): array {
        if (null === $term) {
            return [];
        }
        $total = array_sum(array_column($parts, 'amount'));
        $by = [];
        $numbers = [];
        try {
            $by = $term->schedule(
                new TermDates($dates->document, $dates->posting, $dates->entry, $dates->asked, $dates->start),
                $total,
                $total,
            );
            $numbers = [self::from($term, $dates), 'the days run from '.$term->start($dates)->long()];
        } catch (Refused) {
            // a posted document does not keep the day on which it was entered
            $numbers = ['the days run from the day of entry, which is not kept'];
        }
        $reasons = [];
        foreach ($parts as $k => $part) {
            $gives = ($by[$k] ?? null)?->due;
            $more = $numbers;
            if (\count($parts) > 1) {
                $more[] = \sprintf(
                    'part %d of %d: %s',
                    $k + 1,
                    \count($parts),
                    Typography::amount($part['amount'], $currency),
                );
            }
            if (null !== $gives) {
                $more[] = $gives->equals($part['due'])
                    ? 'gives '.$gives->long()
                    : \sprintf(
                        'as the terms stand now they give %s; it was typed, or they were changed since',
                        $gives->long(),
                    );
            }
            $reasons[] = new Reasoned('Due', $part['due']->long(), $code.': '.TermInWords::of($term), $more);
        }

        return $reasons;
    }

    /**
     * @param iterable<DatedDiscount> $steps of one part
     *
     * @return list<Reasoned>
     */
    public static function discounts(
        iterable $steps,
        int $base,
        int $total,
        string $rule,
        int $graceDays,
        string $currency,
    ): array {
        $reasons = [];
        foreach ($steps as $s) {
            $percent = (string) $s->percent->stripTrailingZeros();
            $computed = Rounding::percent($base, $s->percent);
            $reasons[] = new Reasoned(
                'Discount until '.$s->through->long(),
                Typography::amount($s->amount, $currency),
                $percent.' % of '.($base === $total ? 'the total' : 'the discount base, which is '.$rule),
                [
                    \sprintf(
                        $base === $total ? 'total %2$s' : 'discount base %1$s of a total of %2$s',
                        Typography::amount($base, $currency),
                        Typography::amount($total, $currency),
                    ),
                    \sprintf(
                        '%s × %s %% = %s',
                        Typography::amount($base, $currency),
                        $percent,
                        Typography::amount($computed, $currency),
                    ),
                    ...$graceDays > 0 ? [\sprintf('it still holds %d days late', $graceDays)] : [],
                ],
            );
        }

        return $reasons;
    }

    /** What the discount base of a document is, by its own figures: settings may have changed since. */
    public static function baseRule(int $base, int $total, int $net): string
    {
        return match ($base) {
            $total => 'the total',
            $net => 'the total without tax',
            default => 'the total without tax, freight and charges',
        };
    }

    private static function from(PaymentTerm $term, TermDates $dates): string
    {
        return match (true) {
            null !== $dates->start, RunsFrom::Asked === $term->runsFrom => 'start date typed',
            RunsFrom::Posting === $term->runsFrom => 'posting date '.$dates->posting->long(),
            RunsFrom::Entry === $term->runsFrom => 'day of entry '.$dates->entry?->long(),
            default => 'document date '.$dates->document->long(),
        };
    }

    public static function tax(TaxCode $code, int $net, int $tax, int $recoverable, string $currency): Reasoned
    {
        $rate = $code->rate->stripTrailingZeros();
        $computed = Rounding::percent($net, $code->rate);
        $percent = $rate.' %';
        $numbers = [
            \sprintf(
                'net of all its lines %s × %s = %s',
                Typography::amount($net, $currency),
                $percent,
                Typography::amount($computed, $currency),
            ),
        ];
        if ($computed !== $tax && !$code->inclusive) {
            $numbers[] = \sprintf('the paper rules: %s', Typography::amount($tax, $currency));
        }
        if ($recoverable !== $tax) {
            $numbers[] = \sprintf('of it %s recoverable', Typography::amount($recoverable, $currency));
        }

        return new Reasoned(
            'Tax '.$code->code,
            Typography::amount($tax, $currency),
            ($code->inclusive ? 'inside the price: gross × rate ÷ (1 + rate)' : 'net × rate').
                ', summed by code and rounded once'.
                ($code->reverseCharge ? '; owed by ourselves, so it is not in the total' : ''),
            $numbers,
        );
    }

    /** @param Day|null $rateDay of the table; null for a rate that was typed */
    public static function base(
        int $total,
        int $totalBase,
        string $currency,
        string $base,
        BigDecimal $rate,
        ?Day $rateDay,
    ): Reasoned {
        return new Reasoned('In '.$base, Typography::amount($totalBase, $base), 'total × rate, rounded once', [
            \sprintf(
                'rate %s, %s',
                $rate->stripTrailingZeros(),
                null === $rateDay ? 'typed' : 'of the table from '.$rateDay->long(),
            ),
            \sprintf(
                '%s %s × %s = %s',
                Typography::amount($total, $currency),
                $currency,
                $rate->stripTrailingZeros(),
                Typography::amount($totalBase, $base),
            ),
        ]);
    }
}
