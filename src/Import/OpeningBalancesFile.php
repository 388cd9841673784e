<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\TakeBalances;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemList;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** A list of balances, an account a row. */
#[Exclude]
final class OpeningBalancesFile implements PlannedFile
{
    /** @var array<int, int> base currency, minor units, debit positive, by account */
    private array $balances = [];

    /** @var array<int, string> by account */
    private array $fields = [];

    private int $rows = 0;

    public function __construct(
        private readonly Actor $actor,
        private readonly Day $day,
        private readonly Chart $chart,
        private readonly TakeBalances $takeBalances,
    ) {
    }

    public function plan(array $rows): void
    {
        $row = $rows[0];
        $problems = new ProblemList();
        $account = $problems->attempt(
            fn (): int => $this->chart->any($this->actor->companyId, $row['account'], 'account'),
        );
        $sides = [];
        foreach (['debit', 'credit'] as $column) {
            $sides[$column] =
                '' === $row[$column]
                    ? 0
                    : $problems->attempt(
                        fn (): int => Money::parse($row[$column], $this->actor->baseCurrency, $column)->minor,
                    );
        }
        if (null !== $account && isset($this->balances[$account])) {
            $problems->add('account', 'This account stands in the list already; give each account one row.');
        }
        if (0 !== $sides['debit'] && 0 !== $sides['credit'] && !\in_array(null, $sides, true)) {
            $problems->add('debit', 'A row has a debit or a credit, not both.');
        }
        $problems->refuse();
        $this->balances[(int) $account] = $sides['debit'] - $sides['credit'];
        $this->fields[(int) $account] = \sprintf('record.%d.account', $this->rows++);
    }

    public function whole(): void
    {
        $this->takeBalances->draft($this->actor, $this->day, $this->balances, $this->fields);
    }

    public function write(): array
    {
        $this->takeBalances->take($this->actor, $this->day, $this->balances, $this->fields, 'Opening balances');

        return [];
    }
}
