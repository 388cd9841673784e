<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Nelbix\Core\Calendar\DateInput;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\Exclude;
use Symfony\Component\HttpFoundation\ParameterBag;

/** Which statement is asked for: open items as of a day, or all that moved between two. */
#[Exclude]
final readonly class StatementPeriod
{
    private function __construct(public ?Day $from, public Day $through, public ?string $error)
    {
    }

    /** What cannot be read is named, and the last month stands in its place. */
    public static function of(ParameterBag $asked, DateInput $days, Day $today): self
    {
        $error = null;
        $read = static function (string $key, Day $else) use ($asked, $days, &$error): Day {
            $typed = $asked->get($key);
            try {
                return \is_string($typed) && '' !== trim($typed) ? $days->read(trim($typed), $key) : $else;
            } catch (Refused $e) {
                $error = $e->getMessage();

                return $else;
            }
        };
        $through = $read('through', $today);
        $from = 'moves' === $asked->get('what') ? $read('from', $through->plusDays(-30)) : null;
        if (null !== $from && $through->isBefore($from)) {
            $error = 'The first day is after the last; type an earlier one.';
            $from = $through;
        }

        return new self($from, $through, $error);
    }
}
