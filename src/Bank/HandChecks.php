<?php

declare(strict_types=1);

namespace Nelbix\App\Bank;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/**
 * Enters a check of a payment without a proposal, written by hand or printed, into the register of its book. Call inside a
 * transaction.
 */
final readonly class HandChecks
{
    public function __construct(private EntityManagerInterface $entities)
    {
    }

    /**
     * @param string $number as it stands on the check; a number of no book of this account is kept as it is,
     *                       unless it is printed
     * @param string|null $payee name and address to be printed on it; null when it was written by hand
     *
     * @throws Refused when it was used, or numbers before it are not accounted for
     */
    public function issue(
        int $bankAccountId,
        string $number,
        int $partyId,
        int $documentId,
        int $amount,
        Day $date,
        ?string $payee = null,
    ): void {
        $book = $this->fits($bankAccountId, $number);
        if (null === $book && null !== $payee) {
            throw Refused::because(
                'number',
                \sprintf(
                    'Check %s belongs to no check book of this account; leave the number empty for the next.',
                    $number,
                ),
            );
        }
        if (null === $book) {
            return;
        }
        $check = new BankCheck($book->id(), $book->nextNumber++, CheckState::Issued);
        $check->partyId = $partyId;
        $check->documentId = $documentId;
        $check->amount = $amount;
        $check->checkDate = $date;
        $check->reason = null === $payee ? 'written by hand' : '';
        $check->payee = $payee;
        $this->entities->persist($check);
        // the book is read anew for the next check
        $this->entities->flush();
    }

    /**
     * The number that the next printed check of the account gets, of the book whose series began first.
     *
     * @throws Refused when the account has no check book
     */
    public function next(int $bankAccountId): int
    {
        $book = $this->entities
            ->getRepository(CheckBook::class)
            ->findOneBy(['bankAccountId' => $bankAccountId], ['firstNumber' => 'ASC', 'id' => 'ASC']);
        if (null === $book) {
            throw Refused::because(
                'method',
                'This bank account has no check book to print from; add one under Bank, or pay in another way.',
            );
        }
        $this->entities->refresh($book, LockMode::PESSIMISTIC_WRITE);

        return $book->nextNumber;
    }

    /**
     * Whether checks that were written by hand can be issued, all of them in the order of their numbers.
     *
     * @param list<string> $numbers
     *
     * @throws Refused as issuing them would
     */
    public function check(int $bankAccountId, array $numbers): void
    {
        sort($numbers, \SORT_NATURAL);
        $taken = [];
        foreach ($numbers as $number) {
            $book = $this->fits($bankAccountId, $number, $taken);
            if (null !== $book) {
                $taken[$book->id()] = ($taken[$book->id()] ?? 0) + 1;
            }
        }
    }

    /**
     * @param array<int, int> $taken checks that are taken from a book before this one
     *
     * @return ?CheckBook the book it is the next number of; null when it belongs to none
     */
    private function fits(int $bankAccountId, string $number, array $taken = []): ?CheckBook
    {
        if (1 !== preg_match('/\A[1-9]\d{0,11}\z/', $number)) {
            throw Refused::because(
                'reference',
                \sprintf(
                    '“%s” is not a check number; type the number that stands on the check.',
                    mb_strimwidth($number, 0, 20, '…'),
                ),
            );
        }
        $book = $this->book($bankAccountId, (int) $number);
        if (null === $book) {
            return null;
        }
        $next = $book->nextNumber + ($taken[$book->id()] ?? 0);
        if ((int) $number < $next) {
            throw Refused::because(
                'reference',
                \sprintf('Check %s was used already; the register of %s says for what.', $number, $book->name),
            );
        }
        if ((int) $number > $next) {
            throw Refused::because(
                'reference',
                \sprintf(
                    'The next check of %s is %d; record the ones before %s as skipped in its register, or correct the number.',
                    $book->name,
                    $next,
                    $number,
                ),
            );
        }

        return $book;
    }

    /** The book whose series the number belongs to: of several the one that begins last before it. */
    private function book(int $bankAccountId, int $number): ?CheckBook
    {
        $found = null;
        foreach (
            $this->entities
                ->getRepository(CheckBook::class)
                ->findBy(['bankAccountId' => $bankAccountId], ['firstNumber' => 'ASC']) as $book
        ) {
            $found = $book->firstNumber <= $number ? $book : $found;
        }
        if (null !== $found) {
            $this->entities->refresh($found, LockMode::PESSIMISTIC_WRITE);
        }

        return $found;
    }
}
