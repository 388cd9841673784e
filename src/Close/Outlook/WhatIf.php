<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Outlook;

use Nelbix\Core\Aging\CashOutlook;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/** Payments moved to another day to see what that would do. Nothing of it is kept. */
final readonly class WhatIf
{
    /**
     * @param array<string, Day> $moved by what moves: "run-" and the id of a run, "due-" and the Monday of a week of what is due to vendors
     * @param list<string> $errors
     */
    private function __construct(public array $moved, public array $errors)
    {
    }

    /**
     * @param array<mixed> $asked days by what moves
     * @param Day $last of the outlook
     */
    public static function asked(array $asked, Day $today, Day $last): self
    {
        $moved = [];
        $errors = [];
        foreach (\array_slice($asked, 0, 60, true) as $key => $day) {
            if (1 !== preg_match('/\A(run-\d{1,9}|due-\d{4}-\d\d-\d\d)\z/', (string) $key) || !\is_string($day)) {
                continue;
            }
            try {
                $to = Day::of($day, 'move');
            } catch (Refused $e) {
                $errors[] = $e->getMessage();
                continue;
            }
            if ($to->isBefore($today) || $to->isAfter($last)) {
                $errors[] = \sprintf('A payment moves to a day from %s through %s.', $today->long(), $last->long());
                continue;
            }
            $moved[(string) $key] = $to;
        }

        return new self($moved, array_values(array_unique($errors)));
    }

    public function run(int $id, Day $day): Day
    {
        return $this->moved['run-'.$id] ?? $day;
    }

    /** A week of what is due to vendors moves as one. */
    public function due(Day $day): Day
    {
        return $this->moved['due-'.CashOutlook::monday($day)->iso()] ?? $day;
    }

    /** @return array<string, string> as asked() takes it */
    public function query(): array
    {
        return array_map(static fn (Day $d): string => $d->iso(), $this->moved);
    }
}
