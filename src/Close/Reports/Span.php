<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Reports;

use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;

/** The days of a report, both included: what was asked for, else the fiscal year through the books' day. */
final readonly class Span
{
    private function __construct(public Day $from, public Day $to, public ?string $error)
    {
    }

    public static function asked(Desk $desk, Request $request, BooksDay $booksDay, PeriodGate $periods): self
    {
        $error = null;
        $day = static function (string $field, Day $else) use ($desk, $request, $booksDay, &$error): Day {
            try {
                return $booksDay->asked($desk->id(), $request->query, $field, $else);
            } catch (Refused $e) {
                $error = $e->getMessage();

                return $else;
            }
        };
        $to = $day('to', $desk->today);
        $from = $day('from', $periods->yearStart($desk->id(), $to) ?? $to);
        if ($from->isAfter($to)) {
            return new self($to, $to, 'The first day lies after the last.');
        }

        return new self($from, $to, $error);
    }

    /** @return array{from: string, to: string} for an address */
    public function address(): array
    {
        return ['from' => $this->from->iso(), 'to' => $this->to->iso()];
    }
}
