<?php

declare(strict_types=1);

namespace Nelbix\Core\Terms;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/** A number of days from the start, or "day d of the month + k"; no d means the same day. Source: rules.md, Payment terms. */
final readonly class Step implements \Stringable
{
    private function __construct(public ?int $days, public int $months, public ?int $day)
    {
    }

    public static function days(int $days): self
    {
        return new self($days, 0, null);
    }

    /** @param int|null $day 1 to 31 (31 is the last day), or null for the same day */
    public static function month(int $months, ?int $day): self
    {
        return new self(null, $months, $day);
    }

    /**
     * Reads "30" (days), "+1m15" (day 15 of the month + 1) or "+1m" (the same day).
     *
     * @throws Refused naming $field
     */
    public static function parse(string $text, string $field = 'net'): self
    {
        $text = trim($text);
        if (1 === preg_match('/\A\d{1,4}\z/', $text)) {
            return self::days((int) $text);
        }
        if (1 === preg_match('/\A([+-]\d{1,2})m(\d{1,2})?\z/', $text, $m)) {
            $day = isset($m[2]) ? (int) $m[2] : null;
            if (null === $day || ($day >= 1 && $day <= 31)) {
                return self::month((int) $m[1], $day);
            }
        }
        throw Refused::because(
            $field,
            \sprintf(
                '“%s” is not a step; write 30 for days, +1m15 for day 15 of the next month, or +1m for the same day.',
                mb_strimwidth($text, 0, 40, '…'),
            ),
        );
    }

    public function from(Day $start): Day
    {
        return null !== $this->days
            ? $start->plusDays($this->days)
            : Day::inMonth($start->year, $start->month + $this->months, $this->day ?? $start->day);
    }

    public function __toString(): string
    {
        return null !== $this->days ? (string) $this->days : \sprintf('%+dm%s', $this->months, $this->day ?? '');
    }
}
