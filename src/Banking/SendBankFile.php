<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\StandIns;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Sends a file to the bank, or hands it over where nobody answers by wire. A second time only when the clerk says so. */
final readonly class SendBankFile
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private BankStandIn $bank,
        private TakeAnswer $takeAnswer,
        private History $history,
        private ClockInterface $clock,
        private StandIns $standIns,
    ) {
    }

    /**
     * @param bool $again send it though it was sent before
     * @param list<string> $reject what the bank's stand-in is told to reject, by end-to-end identification
     * @param bool $whole it is told to reject the whole file
     *
     * @return array{accepted: int, rejected: int} what the bank answered
     *
     * @throws Refused when it was sent already, or there is no bank to answer
     */
    public function send(Actor $actor, int $fileId, bool $again = false, array $reject = [], bool $whole = false): array
    {
        if (!$this->standIns->here) {
            throw Refused::because(
                '',
                'Nothing leaves this machine by wire: download the file, hand it over to the bank, and say so.',
            );
        }

        return $this->transaction->run(function () use ($actor, $fileId, $again, $reject, $whole): array {
            [$file, $first] = $this->mark($actor, $fileId, $again, 'sent', 'sent again');

            return $this->takeAnswer->take($actor, $fileId, $this->bank->take($file, $reject, $whole, !$first));
        });
    }

    /**
     * The clerk gave the file to the bank; what the bank answers is taken later.
     *
     * @throws Refused when it was handed over already
     */
    public function handOver(Actor $actor, int $fileId, bool $again = false): void
    {
        $this->transaction->run(function () use ($actor, $fileId, $again): void {
            $this->mark($actor, $fileId, $again, 'handed over to the bank', 'handed over to the bank again');
        });
    }

    /** @return array{BankFile, bool} and whether it is the first time */
    private function mark(Actor $actor, int $fileId, bool $again, string $word, string $wordAgain): array
    {
        $file = $this->entities->find(BankFile::class, $fileId, LockMode::PESSIMISTIC_WRITE);
        if (null === $file || $file->companyId !== $actor->companyId) {
            throw Refused::because('', 'There is no such bank file in this company.', ProblemKind::Unknown);
        }
        $this->entities->refresh($file, LockMode::PESSIMISTIC_WRITE);
        if (null !== $file->withdrawnAt) {
            throw Refused::because('', \sprintf('%s is withdrawn; it does not go to the bank.', $file->number));
        }
        if (null !== $file->sentAt && !$again) {
            throw Refused::because(
                '',
                \sprintf(
                    '%s went to the bank on %s already; a second time could pay twice. Say so if that is meant.',
                    $file->number,
                    $file->sentAt->format('j M Y H:i'),
                ),
            );
        }
        $first = null === $file->sentAt;
        $file->sentAt = $this->clock->now();
        $file->sentById = $actor->userId;
        $this->entities->flush();
        $this->history->note($actor, 'bank_file', $fileId, $first ? $word : $wordAgain);

        return [$file, $first];
    }
}
