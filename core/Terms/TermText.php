<?php

declare(strict_types=1);

namespace Nelbix\Core\Terms;

use Brick\Math\BigDecimal;
use Nelbix\Core\Refused;

/** Parts of a payment term as people write them in a form or a file. Source: commands.md, Terms. */
final class TermText
{
    /**
     * @param string $text windows such as "1-15:+1m10", one after another
     *
     * @return list<Window>
     *
     * @throws Refused naming the word that is none
     */
    public static function windows(string $text): array
    {
        $windows = [];
        foreach (preg_split('/\s+/', $text, -1, \PREG_SPLIT_NO_EMPTY) ?: [] as $word) {
            if (
                1 !== preg_match('/\A(\d{1,2})-(\d{1,2}):(.+)\z/', $word, $m)
                || (int) $m[1] < 1
                || (int) $m[2] > 31
                || (int) $m[1] > (int) $m[2]
            ) {
                throw Refused::because(
                    'windows',
                    \sprintf('“%s” is not a window; write 1-15:+1m10.', mb_strimwidth($word, 0, 40, '…')),
                );
            }
            foreach ($windows as $other) {
                if ((int) $m[1] <= $other->toDay && (int) $m[2] >= $other->fromDay) {
                    throw Refused::because(
                        'windows',
                        \sprintf(
                            '“%s” overlaps %d-%d; a day belongs to one window.',
                            $word,
                            $other->fromDay,
                            $other->toDay,
                        ),
                    );
                }
            }
            $windows[] = new Window((int) $m[1], (int) $m[2], Step::parse($m[3], 'windows'));
        }

        return $windows;
    }

    /**
     * @param string $text steps such as "2@10", one after another
     *
     * @return list<PercentStep>
     *
     * @throws Refused naming the word that is none
     */
    public static function percentSteps(string $text, string $field): array
    {
        $steps = [];
        foreach (preg_split('/\s+/', $text, -1, \PREG_SPLIT_NO_EMPTY) ?: [] as $word) {
            if (1 !== preg_match('/\A(\d{1,3}(?:\.\d{1,6})?)@(.+)\z/', $word, $m)) {
                throw Refused::because(
                    $field,
                    \sprintf('“%s” is not a percent with a step; write 2@10.', mb_strimwidth($word, 0, 40, '…')),
                );
            }
            $percent = BigDecimal::of($m[1]);
            if ($percent->isGreaterThan(100) || ('discounts' === $field && $percent->isEqualTo(100))) {
                throw Refused::because($field, \sprintf('%s %% is too much.', $m[1]));
            }
            $steps[] = new PercentStep($percent, Step::parse($m[2], $field));
        }

        return $steps;
    }

    /**
     * @return list<PercentStep> that add up to 100, or none
     *
     * @throws Refused
     */
    public static function instalments(string $text): array
    {
        $steps = self::percentSteps($text, 'instalments');
        $sum = BigDecimal::zero();
        foreach ($steps as $step) {
            $sum = $sum->plus($step->percent);
        }
        if ([] !== $steps && !$sum->isEqualTo(100)) {
            throw Refused::because(
                'instalments',
                \sprintf('The instalments add up to %s %%; they must add up to 100.', $sum),
            );
        }

        return $steps;
    }
}
