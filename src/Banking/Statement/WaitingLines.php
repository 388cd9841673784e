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
        $places = $desk->may(Permission::PlaceBankLines);
        $pays = $desk->may(Permission::SeePayables);
        if (!$places && !$pays) {
            return;
        }
        $stale = [0, 0];
        $before = $desk->today->plusDays(-$this->settings->of($desk->id())->staleCheckDays());
        foreach ($this->query->waiting($desk->id(), $before) as $n => $a) {
            $worth = $this->rates->worth(
                $desk->id(),
                (string) $a['currency'],
                $desk->company->baseCurrency,
                $desk->today,
                (int) $a['worth'],
                0,
            );
            if ('stale' === $a['kind']) {
                $stale = [$stale[0] + (int) $a['count'], $stale[1] + $worth];
            } elseif ($places) {
                yield new WaitingLine(
                    WaitingLine::BOOKS,
                    10 + $n,
                    'statement_'.$a['code'],
                    'lines of '.$a['name'].' wait for their place',
                    (int) $a['count'],
                    $worth,
                    'statement',
                    ['bank' => (string) $a['id']],
                    'Place them',
                );
            }
        }
        if ($pays) {
            yield new WaitingLine(
                WaitingLine::BOOKS,
                30,
                'stale_checks',
                'checks are stale',
                ...$stale,
                ...['stale_checks', [], 'See them'],
            );
        }
    }
}
