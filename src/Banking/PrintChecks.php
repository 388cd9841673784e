<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankCheck;
use Nelbix\App\Bank\CheckBook;
use Nelbix\App\Bank\CheckState;
use Nelbix\App\Bank\SkipChecks;
use Nelbix\App\Payables\PayBy;
use Nelbix\App\Payables\Proposal;
use Nelbix\App\Payables\ProposalDesk;
use Nelbix\App\Payables\ProposalState;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Reserves the next check numbers for an approved run. Two printers at once: the book's row is locked, so no number is given twice. */
final readonly class PrintChecks
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ProposalDesk $desk,
        private History $history,
        private SkipChecks $skipChecks,
    ) {
    }

    /**
     * @param int $firstNumber the number on the first check in the printer, as the clerk confirms it
     * @param string $skipped why the numbers before it are not used, when it is not the book's next one
     *
     * @throws Refused when that number was used already, or nobody says what became of those before it
     */
    public function print(Actor $actor, int $proposalId, int $checkBookId, int $firstNumber, string $skipped = ''): void
    {
        $this->transaction->run(function () use ($actor, $proposalId, $checkBookId, $firstNumber, $skipped): void {
            $proposal = $this->desk->lock($actor, $proposalId, [ProposalState::Approved]);
            $payments = array_filter(
                $this->desk->payments($proposal),
                static fn (array $p): bool => PayBy::Check === $p['record']->payBy,
            );
            if ([] === $payments) {
                throw Refused::because('', 'No payment of this run is a check printed here; it can be posted at once.');
            }
            $book = $this->book($proposal, $checkBookId);
            $this->skip($actor, $book, $firstNumber, $skipped);
            foreach ($payments as $payment => $p) {
                $this->reserve($book, $proposal, $payment, $p['amount'], $p['record']->partyId);
            }
            $proposal->state = ProposalState::Printed;
            $this->history->note(
                $actor,
                'proposal',
                $proposal->id(),
                'checks printed',
                \sprintf('%d to %d', $firstNumber, $book->nextNumber - 1),
            );
        });
    }

    /** @throws Refused */
    private function skip(Actor $actor, CheckBook $book, int $firstNumber, string $why): void
    {
        if ($firstNumber < $book->nextNumber) {
            throw Refused::because(
                'first_number',
                \sprintf('The next number of %s is %d; those before it are used.', $book->name, $book->nextNumber),
            );
        }
        if ($firstNumber > $book->nextNumber) {
            if ('' === trim($why)) {
                throw Refused::because(
                    'skipped',
                    \sprintf(
                        'The next number of %s is %d; say what became of %d to %d, or put check %d in the printer.',
                        $book->name,
                        $book->nextNumber,
                        $book->nextNumber,
                        $firstNumber - 1,
                        $book->nextNumber,
                    ),
                );
            }
            $this->skipChecks->skip($actor, $book->id(), $firstNumber - 1, $why);
        }
    }

    /**
     * What came out of the printer. Spoiled numbers stay void for ever and their payments get the next numbers, to be printed again;
     * the rest is good.
     *
     * @param list<int> $spoiled check numbers
     * @param list<int> $notPrinted numbers whose paper is still blank, after a jam: they keep them and wait on
     *
     * @return int how many are to be printed again
     *
     * @throws Refused
     */
    public function sayWhatPrinted(
        Actor $actor,
        int $proposalId,
        array $spoiled,
        string $reason,
        array $notPrinted = [],
    ): int {
        return $this->transaction->run(function () use ($actor, $proposalId, $spoiled, $reason, $notPrinted): int {
            $proposal = $this->desk->lock($actor, $proposalId, [ProposalState::Printed]);
            /** @var list<BankCheck> $waiting */
            $waiting = $this->entities
                ->getRepository(BankCheck::class)
                ->findBy(['proposalId' => $proposal->id, 'state' => CheckState::Reserved], ['number' => 'ASC']);
            if ([] === $waiting) {
                throw Refused::because('', 'It was already said what came out; load the page anew.');
            }
            $book = $this->book($proposal, $waiting[0]->checkBookId);
            $unknown = array_diff(
                [...$spoiled, ...$notPrinted],
                array_map(static fn (BankCheck $c): int => $c->number, $waiting),
            );
            if ([] !== $unknown) {
                throw Refused::because(
                    'spoiled',
                    \sprintf('Check %d is not among those that were printed now.', current($unknown)),
                );
            }
            $again = 0;
            foreach ($waiting as $check) {
                if (\in_array($check->number, $notPrinted, true) && !\in_array($check->number, $spoiled, true)) {
                    ++$again;
                    continue;
                }
                if (!\in_array($check->number, $spoiled, true)) {
                    $check->state = CheckState::Printed;
                    continue;
                }
                $check->state = CheckState::Spoiled;
                $check->reason = mb_substr(trim($reason), 0, 255);
                $next = $this->take($book);
                $next->proposalId = $check->proposalId;
                $next->payment = $check->payment;
                $next->partyId = $check->partyId;
                $next->amount = $check->amount;
                $next->checkDate = $check->checkDate;
                $this->entities->persist($next);
                ++$again;
            }
            $this->history->note(
                $actor,
                'proposal',
                $proposal->id(),
                'said what printed',
                implode(
                    '; ',
                    array_filter([
                        [] === $spoiled && [] === $notPrinted ? 'all came out right' : '',
                        [] === $spoiled ? '' : 'spoiled: '.implode(', ', $spoiled),
                        [] === $notPrinted ? '' : 'not printed: '.implode(', ', $notPrinted),
                    ]),
                ),
            );
            $this->entities
                ->getConnection()
                ->executeStatement('UPDATE print_job SET said = 1 WHERE proposal_id = ?', [$proposalId]);

            return $again;
        });
    }

    private function reserve(CheckBook $book, Proposal $proposal, int $payment, int $amount, int $partyId): void
    {
        $check = $this->take($book);
        $check->proposalId = $proposal->id;
        $check->payment = $payment;
        $check->partyId = $partyId;
        $check->amount = $amount;
        $check->checkDate = $proposal->payDate;
        $this->entities->persist($check);
    }

    private function take(CheckBook $book): BankCheck
    {
        return new BankCheck($book->id(), $book->nextNumber++, CheckState::Reserved);
    }

    private function book(Proposal $proposal, int $checkBookId): CheckBook
    {
        $book = $this->entities->find(CheckBook::class, $checkBookId, LockMode::PESSIMISTIC_WRITE);
        if (null === $book || $book->bankAccountId !== $proposal->bankAccountId) {
            throw Refused::because(
                'check_book',
                'The check book belongs to another bank account; choose one of this run’s account.',
            );
        }
        $this->entities->refresh($book, LockMode::PESSIMISTIC_WRITE);

        return $book;
    }
}
