<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Reports;

use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Money\Money;
use Symfony\Component\HttpFoundation\Request;

/** A report of a span of days. */
abstract class ReportScreen extends Screen
{
    public function __construct(protected readonly BooksDay $booksDay, protected readonly PeriodGate $periods)
    {
    }

    protected function span(Desk $desk, Request $request): Span
    {
        return Span::asked($desk, $request, $this->booksDay, $this->periods);
    }

    /** @return \Closure(int): string */
    protected static function decimals(Desk $desk): \Closure
    {
        return static fn (int $v): string => Money::of($v, $desk->company->baseCurrency)->decimal();
    }
}
