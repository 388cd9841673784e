<?php

declare(strict_types=1);

namespace Nelbix\Core\Aging;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/**
 * The buckets of an aging by day counts. Day 0 and earlier is not due; day 1 to the first limit is the first bucket. Source: rules.md,
 * Aging.
 */
final readonly class Bucketing
{
    /**
     * @param non-empty-list<int> $limits rising, such as 30, 60, 90
     *
     * @throws Refused when they do not rise
     */
    public function __construct(public array $limits)
    {
        $last = 0;
        foreach ($limits as $limit) {
            if ($limit <= $last || $limit > 3650) {
                throw Refused::because('buckets', 'The bucket limits must rise, such as 30,60,90.');
            }
            $last = $limit;
        }
    }

    /** @throws Refused when it is not a list of rising numbers */
    public static function parse(string $text): self
    {
        if (1 !== preg_match('/\A\d{1,4}(\s*,\s*\d{1,4}){0,11}\z/', trim($text))) {
            throw Refused::because(
                'buckets',
                \sprintf('“%s” is not a list of days; write 30,60,90.', mb_strimwidth($text, 0, 40, '…')),
            );
        }

        return new self(array_map('intval', explode(',', $text)));
    }

    /** −1 for not due, else the bucket's index; the last one has no upper limit. */
    public function indexOf(Day $date, Day $asOf): int
    {
        $days = $date->daysUntil($asOf);
        if ($days <= 0) {
            return -1;
        }
        foreach ($this->limits as $k => $limit) {
            if ($days <= $limit) {
                return $k;
            }
        }

        return \count($this->limits);
    }

    /** @return non-empty-list<string> "1–30", …, "over 90" */
    public function labels(): array
    {
        $labels = [];
        $from = 1;
        foreach ($this->limits as $limit) {
            $labels[] = $from.'–'.$limit;
            $from = $limit + 1;
        }
        $labels[] = 'over '.($from - 1);

        return $labels;
    }
}
