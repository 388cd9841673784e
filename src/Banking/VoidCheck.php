<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccount;
use Nelbix\App\Bank\BankCheck;
use Nelbix\App\Bank\CheckBook;
use Nelbix\App\Bank\CheckState;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/**
 * Voids a check that was issued, or has the bank stop it. Either way what it paid opens again on that day, discount included; its
 * number stays used.
 */
final readonly class VoidCheck
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ReverseDocument $reverseDocument,
        private History $history,
    ) {
    }

    /**
     * @param bool $stop the paper is out of our hands and the bank is asked not to pay it
     *
     * @throws Refused when the check was not issued, or is cleared
     */
    public function void(Actor $actor, int $checkBookId, int $number, Day $day, string $reason, bool $stop): void
    {
        $this->transaction->run(function () use ($actor, $checkBookId, $number, $day, $reason, $stop): void {
            $book = $this->entities->find(CheckBook::class, $checkBookId);
            $bank = null === $book ? null : $this->entities->find(BankAccount::class, $book->bankAccountId);
            $check =
                $bank?->companyId === $actor->companyId
                    ? $this->entities
                        ->getRepository(BankCheck::class)
                        ->findOneBy(['checkBookId' => $checkBookId, 'number' => $number])
                    : null;
            if (null === $check) {
                throw Refused::because('number', \sprintf('Check %d is not in this register.', $number));
            }
            $this->entities->refresh($check, LockMode::PESSIMISTIC_WRITE);
            if (CheckState::Issued !== $check->state || null === $check->documentId) {
                throw Refused::because(
                    'number',
                    \sprintf(
                        CheckState::Cleared === $check->state
                            ? 'Check %d is cleared; the bank has paid it, so it cannot be voided.'
                            : 'Check %d is %s; only an issued check is voided or stopped.',
                        $number,
                        $check->state->value,
                    ),
                );
            }
            if ('' === trim($reason)) {
                throw Refused::because(
                    'reason',
                    $stop ? 'Say why the bank should stop it.' : 'Say why the check is voided.',
                );
            }
            $this->reverseDocument->event(
                $actor,
                $check->documentId,
                $day,
                $stop ? HowTakenBack::Stopped : HowTakenBack::Voided,
                trim($reason),
            );
            $this->entities->refresh($check);
            $check->state = $stop ? CheckState::Stopped : CheckState::Voided;
            $check->reason = mb_substr(trim($reason), 0, 255);
            $this->history->note(
                $actor,
                'check_book',
                $checkBookId,
                $stop ? 'stopped' : 'voided',
                \sprintf('%d: %s', $number, $reason),
            );
        });
    }
}
