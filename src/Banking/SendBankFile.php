<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Sends a file to the bank. A second time only when the clerk says so. */
final readonly class SendBankFile
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private BankStandIn $bank,
        private TakeAnswer $takeAnswer,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param bool $again send it though it was sent before
     * @param list<string> $reject what the bank's stand-in is told to reject, by end-to-end identification
     * @param bool $whole it is told to reject the whole file
     *
     * @return array{accepted: int, rejected: int} what the bank answered
     *
     * @throws Refused when it was sent already
     */
    public function send(Actor $actor, int $fileId, bool $again = false, array $reject = [], bool $whole = false): array
    {
        return $this->transaction->run(function () use ($actor, $fileId, $again, $reject, $whole): array {
            $file = $this->entities->find(BankFile::class, $fileId, LockMode::PESSIMISTIC_WRITE);
            if (null === $file || $file->companyId !== $actor->companyId) {
                throw Refused::because('', 'There is no such bank file in this company.', ProblemKind::Unknown);
            }
            $this->entities->refresh($file, LockMode::PESSIMISTIC_WRITE);
            if (null !== $file->sentAt && !$again) {
                throw Refused::because(
                    '',
                    \sprintf(
                        '%s was sent to the bank on %s already; sending it again could pay twice. Say so if that is meant.',
                        $file->number,
                        $file->sentAt->format('j M Y H:i'),
                    ),
                );
            }
            $first = null === $file->sentAt;
            $file->sentAt = $this->clock->now();
            $file->sentById = $actor->userId;
            $this->entities->flush();
            $this->history->note($actor, 'bank_file', $fileId, $first ? 'sent' : 'sent again');

            return $this->takeAnswer->take($actor, $fileId, $this->bank->take($file, $reject, $whole, !$first));
        });
    }
}
