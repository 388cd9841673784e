<?php

declare(strict_types=1);

namespace Nelbix\Core\Terms;

/** Words a payment term, for lists and for the customer's paper. Source: common practice. */
final class TermInWords
{
    /** One sentence without a full stop, such as "2 % within 10 days, net 30 days from the document date". */
    public static function of(PaymentTerm $term): string
    {
        $parts = array_map(
            static fn (PercentStep $d): string => \sprintf('%s %% %s', self::percent($d), self::within($d->step)),
            $term->discounts,
        );
        if ([] === $term->instalments) {
            $parts[] = match (true) {
                0 === $term->net->days => 'due at once',
                null === $term->net->days => 'due on '.self::step($term->net),
                default => 'net '.self::step($term->net),
            };
        } else {
            $parts[] =
                'in instalments: '.
                implode(
                    ', ',
                    array_map(
                        static fn (PercentStep $i): string => \sprintf(
                            '%s %% %s',
                            self::percent($i),
                            null === $i->step->days ? 'on '.self::step($i->step) : 'after '.self::step($i->step),
                        ),
                        $term->instalments,
                    ),
                );
        }
        // what is due at once is counted from nothing
        $text = implode(', ', $parts).(['due at once'] === $parts && [] === $term->windows ? '' : self::from($term));
        if ($term->graceDays > 0 && [] !== $term->discounts) {
            $text .= \sprintf(
                '; a discount still holds %d %s late',
                $term->graceDays,
                1 === $term->graceDays ? 'day' : 'days',
            );
        }

        return $text;
    }

    /** "10 days", "day 15 of the next month", "the last day of the same month", "the same day of the next month". */
    public static function step(Step $step): string
    {
        if (null !== $step->days) {
            return 1 === $step->days ? '1 day' : $step->days.' days';
        }
        $month = match ($step->months) {
            -1 => 'the month before',
            0 => 'the same month',
            1 => 'the next month',
            2 => 'the month after next',
            default => \sprintf('the month %+d', $step->months),
        };

        return match ($step->day) {
            null => 'the same day of '.$month,
            31 => 'the last day of '.$month,
            default => \sprintf('day %d of %s', $step->day, $month),
        };
    }

    private static function within(Step $step): string
    {
        return null === $step->days ? 'until '.self::step($step) : 'within '.self::step($step);
    }

    private static function from(PaymentTerm $term): string
    {
        $date = match ($term->runsFrom) {
            RunsFrom::Document => 'the document date',
            RunsFrom::Posting => 'the posting date',
            RunsFrom::Entry => 'the day of entry',
            RunsFrom::Asked => 'a date that is agreed',
        };
        if ([] === $term->windows) {
            return (null === $term->net->days && [] === $term->instalments ? ', counted from ' : ' from ').$date;
        }

        return \sprintf(
            ', counted from %s',
            implode(
                ', ',
                array_map(
                    static fn (Window $w): string => \sprintf(
                        '%s when %s falls on day %d to %d',
                        self::step($w->start),
                        $date,
                        $w->fromDay,
                        $w->toDay,
                    ),
                    $term->windows,
                ),
            ),
        );
    }

    private static function percent(PercentStep $step): string
    {
        return (string) $step->percent->stripTrailingZeros();
    }
}
