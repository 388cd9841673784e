<?php

declare(strict_types=1);

namespace Nelbix\App\Bank;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Records check numbers that will never be used (a torn or missing sheet), so that the register accounts for every number. */
final readonly class SkipChecks
{
    public const MOST = 500;

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private History $history,
    ) {
    }

    /**
     * @param int $through the last number to skip, from the book's next one on
     *
     * @return int how many were skipped
     *
     * @throws Refused
     */
    public function skip(Actor $actor, int $checkBookId, int $through, string $reason): int
    {
        return $this->transaction->run(function () use ($actor, $checkBookId, $through, $reason): int {
            $book = $this->entities->find(CheckBook::class, $checkBookId, LockMode::PESSIMISTIC_WRITE);
            $bank = null === $book ? null : $this->entities->find(BankAccount::class, $book->bankAccountId);
            if (null === $book || null === $bank || $bank->companyId !== $actor->companyId) {
                throw Refused::because(
                    'check_book',
                    'There is no such check book in this company.',
                    ProblemKind::Unknown,
                );
            }
            $this->entities->refresh($book, LockMode::PESSIMISTIC_WRITE);
            if ('' === trim($reason)) {
                throw Refused::because('reason', 'Say why these checks are skipped.');
            }
            if ($through < $book->nextNumber || $through >= $book->nextNumber + self::MOST) {
                throw Refused::because(
                    'through',
                    \sprintf('Give a number from %d to %d.', $book->nextNumber, $book->nextNumber + self::MOST - 1),
                );
            }
            $count = 0;
            for ($first = $book->nextNumber; $book->nextNumber <= $through; ++$book->nextNumber) {
                $check = new BankCheck($book->id(), $book->nextNumber, CheckState::Skipped);
                $check->reason = mb_substr(trim($reason), 0, 255);
                $this->entities->persist($check);
                ++$count;
            }
            $this->history->note(
                $actor,
                'check_book',
                $book->id(),
                'skipped',
                \sprintf('%d to %d: %s', $first, $through, $reason),
            );

            return $count;
        });
    }
}
