<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/**
 * Takes over what accounts held elsewhere at the end of a day. What an account lacks is posted against the opening balances, so the same
 * list taken twice posts nothing the second time. A control account is not posted on: its open items must add up to what the list says.
 */
final readonly class TakeBalances
{
    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private Chart $chart,
        private PostJournalEntry $postJournalEntry,
    ) {
    }

    /**
     * The entry that is missing; empty when the accounts hold what the list says.
     *
     * @param array<int, int> $balances base currency, minor units, debit positive, by account
     * @param array<int, string> $fields what the problems of an account name
     *
     * @throws Refused with every control account whose items do not add up
     */
    public function draft(Actor $actor, Day $day, array $balances, array $fields): JournalDraft
    {
        $opening = $this->chart->role($actor->companyId, AccountRole::OpeningBalances);
        $held = $this->held($day, array_keys($balances));
        $problems = new ProblemList();
        $lines = [];
        foreach ($balances as $id => $balance) {
            $missing = $balance - ($held[$id] ?? 0);
            if ($id === $opening) {
                $problems->add(
                    $fields[$id],
                    'The opening balances take what the other accounts leave; leave this account out of the list.',
                );
            } elseif (0 !== $missing && $this->chart->isControl($actor->companyId, $id)) {
                $problems->add(
                    $fields[$id],
                    \sprintf(
                        'The open items add up to %s here and the list says %s, %s apart; take the items over first, or mend the list.',
                        Money::of($held[$id] ?? 0, $actor->baseCurrency)->decimal(),
                        Money::of($balance, $actor->baseCurrency)->decimal(),
                        Money::of(abs($missing), $actor->baseCurrency)->decimal(),
                    ),
                );
            } elseif (0 !== $missing) {
                $lines[] = new DraftLine($id, $missing, $missing);
            }
        }
        $problems->refuse();
        $sum = array_sum(array_map(static fn (DraftLine $l): int => $l->base, $lines));

        return JournalDraft::of($actor->baseCurrency, [...$lines, new DraftLine($opening, -$sum, -$sum)]);
    }

    /**
     * @param array<int, int> $balances as for draft()
     * @param array<int, string> $fields
     *
     * @throws Refused
     */
    public function take(Actor $actor, Day $day, array $balances, array $fields, string $text): void
    {
        $this->transaction->run(function () use ($actor, $day, $balances, $fields, $text): void {
            $draft = $this->draft($actor, $day, $balances, $fields);
            if (!$draft->isEmpty()) {
                $this->postJournalEntry->post($actor, $draft, $day, $text);
            }
        });
    }

    /**
     * @param list<int> $accounts
     *
     * @return array<int, int> at the end of the day, by account
     */
    private function held(Day $day, array $accounts): array
    {
        return array_map(
            static fn (mixed $sum): int => (int) $sum,
            $this->db->fetchAllKeyValue(
                'SELECT account_id, SUM(base) FROM journal_line WHERE account_id IN (?) AND posting_date <= ? GROUP BY account_id',
                [$accounts, $day->iso()],
                [\Doctrine\DBAL\ArrayParameterType::INTEGER],
            ),
        );
    }
}
