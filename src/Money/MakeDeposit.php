<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccount;
use Nelbix\App\Bank\DepositLine;
use Nelbix\App\Bank\DepositSlip;
use Nelbix\App\Books\DocumentHold;
use Nelbix\App\Books\LotGuard;
use Nelbix\App\Books\LotOf;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Bulk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\Picked;
use Nelbix\App\Platform\StoresNumbers;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DepositEntry;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Takes picked checks and cash to the bank on one slip: its entry moves the bank account in one line, as the bank's statement will.
 *
 * @phpstan-import-type OnHand from OnHandQuery
 */
final readonly class MakeDeposit implements StoresNumbers
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private OnHandQuery $onHand,
        private Picked $picked,
        private LedgerWriter $ledger,
        private PeriodGate $periods,
        private Numbering $numbering,
        private BooksDay $booksDay,
        private History $history,
        private ClockInterface $clock,
        private Bulk $bulk,
        private LotGuard $lots,
        private DocumentHold $hold,
    ) {
    }

    /**
     * @param list<string> $keys of the receipts that the page showed
     *
     * @return int the slip's id
     *
     * @throws Refused when one is no longer on hand, they go to several accounts, or the day is before one of them
     */
    public function deposit(Actor $actor, array $keys, Day $day, ?FormKey $form): int
    {
        return $this->transaction->once($actor, 'deposit', $form, function () use ($actor, $keys, $day): int {
            $rows = $this->picked->rows(
                $actor,
                'receipts',
                $keys,
                fn (): array => $this->onHand->of(
                    $actor->companyId,
                    Day::latest($day, $this->booksDay->of($actor->companyId)),
                ),
                'Nothing is picked; pick what goes to the bank.',
                'What is on hand changed since this page was loaded; look at it as it stands now.',
            );
            $this->check($actor, $rows, $day);
            $slip = new DepositSlip(
                $actor->companyId,
                $rows[0]['bank_id'],
                $rows[0]['account_id'],
                $day,
                array_sum(array_column($rows, 'amount')),
                array_sum(array_column($rows, 'base')),
                $actor->userId,
                $this->clock->now(),
            );
            $this->entities->persist($slip);
            foreach ($rows as $row) {
                $this->entities->persist(new DepositLine($slip, $row['id'], $row['amount'], $row['base']));
            }
            $this->entities->flush();
            $this->numbering->announce(
                $actor->companyId,
                'DS',
                $day,
                $slip,
                static function (string $number) use ($slip): void {
                    $slip->number = $number;
                },
                $this,
            );
            $this->book($actor, $slip, \count($rows));
            $this->history->note($actor, 'deposit', $slip->id(), 'deposited');

            return $slip->id();
        });
    }

    /**
     * The entries as closing a slip would write them, one for each bank account that is picked (a slip has one). For the entry panel.
     *
     * @param list<string> $keys
     *
     * @return list<JournalDraft>
     */
    public function preview(Actor $actor, array $keys): array
    {
        $by = [];
        foreach ($this->onHand->of($actor->companyId, $this->booksDay->of($actor->companyId)) as $row) {
            if (\in_array($row['key'], $keys, true)) {
                $by[$row['bank_id']][] = $row;
            }
        }
        $drafts = [];
        foreach ($by as $bankId => $rows) {
            $bank =
                $this->entities->find(BankAccount::class, $bankId) ??
                throw new \LogicException('A receipt has a bank account.');
            $drafts[] = DepositEntry::draft(
                $bank->accountId,
                $rows[0]['account_id'],
                $bank->currency,
                array_sum(array_column($rows, 'amount')),
                array_sum(array_column($rows, 'base')),
                'deposit',
            );
        }

        return $drafts;
    }

    public function storeNumbers(array $records): void
    {
        $numbers = [];
        foreach ($records as $slip) {
            \assert($slip instanceof DepositSlip);
            $numbers[$slip->id()] = ['number' => $slip->number];
        }
        $this->bulk->update('deposit_slip', $numbers);
    }

    private function book(Actor $actor, DepositSlip $slip, int $count): void
    {
        $bank =
            $this->entities->find(BankAccount::class, $slip->bankAccountId) ??
            throw new \LogicException('A receipt has a bank account.');
        $this->ledger->write(
            $actor,
            new EntryOrder(
                DepositEntry::draft(
                    $bank->accountId,
                    $slip->accountId,
                    $bank->currency,
                    $slip->amount,
                    $slip->amountBase,
                    \sprintf('deposit of %d', $count),
                ),
                $slip->depositedOn,
                static fn (): string => \sprintf('%s, deposit of %d', $slip->number, $count),
                [],
                Source::deposit($slip->id()),
            ),
        );
    }

    /**
     * @param non-empty-list<OnHand> $rows
     *
     * @throws Refused
     */
    private function check(Actor $actor, array $rows, Day $day): void
    {
        // a bounce holds its receipt; whoever comes second finds what the other did
        $standing = $this->hold->hold(array_column($rows, 'id'));
        $problems = [];
        if ($standing !== \count($rows)) {
            throw Refused::because(
                'receipts',
                'A receipt of these was taken back just now; look at the list as it stands now.',
                ProblemKind::Taken,
            );
        }
        $this->lots->mustBeThrough(LotOf::Documents, array_column($rows, 'id'), 'A receipt of these');
        if (\count(array_unique(array_column($rows, 'bank_id'))) > 1) {
            $problems[] = new Problem(
                'receipts',
                \sprintf(
                    'One slip goes to one bank account; these go to %s.',
                    implode(' and ', array_unique(array_column($rows, 'bank'))),
                ),
            );
        }
        foreach ($rows as $row) {
            if ($day->isBefore(Day::of($row['day']))) {
                $problems[] = new Problem(
                    'date',
                    \sprintf('%s came on %s; deposit it then or later.', $row['number'], Day::of($row['day'])->long()),
                );
            }
        }
        if ($this->booksDay->of($actor->companyId)->isBefore($day)) {
            $problems[] = new Problem(
                'date',
                \sprintf('%s is still to come; a deposit is dated when it was made.', $day->long()),
            );
        }
        if ([] !== $problems) {
            throw Refused::all($problems);
        }
        $this->periods->mustBeOpen($actor->companyId, $day, [], 'date');
    }
}
