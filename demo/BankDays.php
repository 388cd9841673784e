<?php

declare(strict_types=1);

namespace Nelbix\Demo;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Banking\Reconcile\ReconcileQuery;
use Nelbix\App\Banking\Reconcile\SignOff;
use Nelbix\App\Banking\Statement\FindPlaces;
use Nelbix\App\Banking\Statement\LineOptions;
use Nelbix\App\Banking\Statement\PlaceLine;
use Nelbix\App\Banking\Statement\SaveRule;
use Nelbix\App\Banking\Statement\StatementStandIn;
use Nelbix\App\Banking\Statement\TakeStatement;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;

/** The demo's statements: a month at a time, every line placed; the last one waits. */
final readonly class BankDays
{
    public function __construct(
        private EntityManagerInterface $entities,
        private Acts $acts,
        private BankAccounts $banks,
        private StatementStandIn $bank,
        private TakeStatement $takeStatement,
        private FindPlaces $findPlaces,
        private LineOptions $options,
        private PlaceLine $placeLine,
        private SaveRule $saveRule,
        private ReconcileQuery $reconcile,
        private SignOff $signOff,
        private Transaction $transaction,
    ) {
    }

    public function plan(Actor $controller, Day $start): void
    {
        $this->acts->on($start, fn () => $this->rules($controller));
        for (
            $end = $start->endOfMonth();
            $end->isBefore($this->acts->end->plusDays(-5));
            $end = $end->plusDays(1)->endOfMonth()
        ) {
            $this->acts->on($end->plusDays(4), fn () => $this->month($controller, $end));
        }
        // what moved until Friday is there on Monday
        $this->acts->on($this->acts->end, fn () => $this->take($controller, $this->acts->end->plusDays(-3), true));
    }

    private function rules(Actor $actor): void
    {
        foreach (
            [
                ['the bank’s fee', 'service fee', 'out', '6800'],
                ['interest of the bank', 'credit interest', 'in', '4600'],
            ] as [$name, $words, $direction, $account]
        ) {
            $this->saveRule->save(
                $actor,
                ['name' => $name, 'words' => $words, 'direction' => $direction, 'lines' => [['account' => $account]]],
                null,
            );
        }
    }

    private function take(Actor $actor, Day $to, bool $odd): void
    {
        $statement = $this->bank->make($this->banks->named($actor->companyId, ''), $to, $odd);
        $this->takeStatement->take(
            $actor,
            $this->banks->named($actor->companyId, '')->id,
            $statement,
            'camt053',
            hash('sha256', serialize($statement)),
        );
    }

    private function month(Actor $actor, Day $end): void
    {
        $this->take($actor, $end, false);
        $bank = $this->banks->named($actor->companyId, '');
        // what fits twice is placed once the first has its place
        for ($round = 1; $round <= 3; ++$round) {
            $found = $this->findPlaces->of($bank, $actor->companyId);
            $waiting = array_fill_keys(array_keys($found), 0);
            $this->transaction->run(function () use ($actor, $bank, $found, $waiting): void {
                $taken = [];
                foreach ($this->options->of($bank, $actor->companyId, $found, $waiting) as $line => $options) {
                    $choice = [] === $options ? null : $options[0]->choice;
                    $key = null === $choice ? '' : json_encode($choice->entries);
                    if (null !== $choice && 0 === $options[0]->off && ('[]' === $key || !isset($taken[$key]))) {
                        $taken[$key] = true;
                        $this->placeLine->place($actor, $line, $choice);
                    }
                }
            });
            $this->entities->clear();
        }
        $day = $this->reconcile->of($bank, $end);
        if (null !== $day && 0 === $day->named() && $end->isAfter($this->acts->end->plusMonths(-3))) {
            $this->signOff->sign($actor, $bank->id, $end, $day->digest(), false);
        }
    }
}
