<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\App\Ledger\Rates;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\WaitingLine;
use Nelbix\App\Platform\Waits;

/** Lines of the bank that have no place, an account that was not reconciled through its last month, checks that nobody cashes. */
final readonly class WaitingLines implements Waits
{
    public function __construct(private StatementQuery $query, private Settings $settings, private Rates $rates)
    {
    }

    public function lines(Desk $desk): iterable
    {
        if ($desk->may(Permission::PlaceBankLines)) {
            foreach ($this->query->accounts($desk->id()) as $n => $a) {
                yield new WaitingLine(
                    WaitingLine::BOOKS,
                    10 + $n,
                    'statement_'.$a['code'],
                    'lines of '.$a['name'].' wait for their place',
                    (int) $a['waiting'],
                    $this->rates->worth(
                        $desk->id(),
                        (string) $a['currency'],
                        $desk->company->baseCurrency,
                        $desk->today,
                        (int) $a['worth'],
                        0,
                    ),
                    'statement',
                    ['bank' => (string) $a['id']],
                    'Place them',
                );
            }
        }
        if ($desk->may(Permission::SeePayables)) {
            $rows = $this->query->stale(
                $desk->id(),
                $desk->today->plusDays(-$this->settings->of($desk->id())->staleCheckDays()),
            );
            yield new WaitingLine(
                WaitingLine::BOOKS,
                30,
                'stale_checks',
                'checks are stale',
                \count($rows),
                array_sum(array_map('intval', array_column($rows, 'amount'))),
                'stale_checks',
                [],
                'See them',
            );
        }
    }
}
