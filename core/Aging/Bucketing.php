<?php

declare(strict_types=1);

namespace Nelbix\Core\Aging;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/**
 * The buckets of an aging, by day counts or by calendar months. Day 0 and earlier is not due; by days, day 1 to the first limit is the
 * first bucket; by months, the first bucket is what fell due in the month of the day itself, before it. Source: rules.md, Aging.
 */
final readonly class Bucketing
{
    public const MOST = 12;

    /**
     * @param list<int> $limits rising, such as 30, 60, 90; empty for calendar months
     * @param int $months so many calendar months have a bucket each, and one more what is older; 0 for buckets by days
     *
     * @throws Refused when the limits do not rise
     */
    public function __construct(public array $limits, public int $months = 0)
    {
        if ([] === $limits && ($months < 1 || $months > self::MOST)) {
            throw Refused::because('buckets', 'Give 1 to 12 months, such as 3m.');
        }
        $last = 0;
        foreach ($limits as $limit) {
            if ($limit <= $last || $limit > 3650) {
                throw Refused::because('buckets', 'The bucket limits must rise, such as 30,60,90.');
            }
            $last = $limit;
        }
    }

    /**
     * @param string $text limits in days ("30,60,90"), a length and how many of it ("30x4"), or calendar months ("3m")
     *
     * @throws Refused when it is none of these
     */
    public static function parse(string $text): self
    {
        $text = strtolower(trim($text));
        if (1 === preg_match('/\A(\d{1,2})\s*m(onths?)?\z/', $text, $m)) {
            return new self([], (int) $m[1]);
        }
        if (
            1 === preg_match('/\A(\d{1,4})\s*[x×]\s*(\d{1,2})\z/u', $text, $m)
            && (int) $m[2] <= self::MOST
            && $m[2] > 0
        ) {
            return new self(array_map(static fn (int $k): int => $k * (int) $m[1], range(1, (int) $m[2])));
        }
        if (1 !== preg_match('/\A\d{1,4}(\s*,\s*\d{1,4}){0,11}\z/', $text)) {
            throw Refused::because(
                'buckets',
                \sprintf(
                    '“%s” is not a list of days; write 30,60,90, or 30x4 for four of 30 days, or 3m for three calendar months.',
                    mb_strimwidth($text, 0, 40, '…'),
                ),
            );
        }

        return new self(array_map('intval', explode(',', $text)));
    }

    /** As parse() takes it. */
    public function text(): string
    {
        return [] === $this->limits ? $this->months.'m' : implode(',', $this->limits);
    }

    /** How many there are, without what is not due. */
    public function count(): int
    {
        return ([] === $this->limits ? $this->months : \count($this->limits)) + 1;
    }

    /** −1 for not due, else the bucket's index; the last one has no upper limit. */
    public function indexOf(Day $date, Day $asOf): int
    {
        $days = $date->daysUntil($asOf);
        if ($days <= 0) {
            return -1;
        }
        if ([] === $this->limits) {
            return min($this->months, 12 * ($asOf->year - $date->year) + $asOf->month - $date->month);
        }
        foreach ($this->limits as $k => $limit) {
            if ($days <= $limit) {
                return $k;
            }
        }

        return \count($this->limits);
    }

    /**
     * The days that fall into a bucket, both included; null where there is no bound.
     *
     * @param int $index −1 for what is not due
     *
     * @return array{?Day, ?Day}
     */
    public function days(int $index, Day $asOf): array
    {
        if ($index < 0) {
            return [$asOf, null];
        }
        $last = $index >= $this->count() - 1;
        if ([] === $this->limits) {
            $first = Day::ymd($asOf->year, $asOf->month, 1);
            $to = 0 === $index ? $asOf->plusDays(-1) : $first->plusMonths(1 - $index)->plusDays(-1);

            return [$last ? null : $first->plusMonths(-$index), $to];
        }

        return [
            $last ? null : $asOf->plusDays(-$this->limits[$index]),
            $asOf->plusDays(0 === $index ? -1 : -$this->limits[$index - 1] - 1),
        ];
    }

    /** @return non-empty-list<string> "1–30", …, "over 90"; by months "Jun", "May", …, "before Apr" as seen from the day */
    public function labels(?Day $asOf = null): array
    {
        $labels = [];
        if ([] === $this->limits) {
            $first = Day::ymd($asOf->year ?? 2000, $asOf->month ?? 1, 1);
            for ($k = 0; $k < $this->months; ++$k) {
                $labels[] = substr($first->plusMonths(-$k)->long(), 2, 3);
            }
            $labels[] = 'before '.end($labels);

            return $labels;
        }
        $from = 1;
        foreach ($this->limits as $limit) {
            $labels[] = $from.'–'.$limit;
            $from = $limit + 1;
        }
        $labels[] = 'over '.($from - 1);

        return $labels;
    }
}
