<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Withdraws a file that has not gone to the bank. The payments of a run wait for another file, or are voided now; what was collected
 * from customers is taken back with its file, for it was posted for the sake of it.
 */
final readonly class WithdrawFile
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ReverseDocument $reverse,
        private BooksDay $booksDay,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @return int how many receipts were taken back
     *
     * @throws Refused when it went to the bank, is withdrawn, tests accounts only, or nobody says why
     */
    public function withdraw(Actor $actor, int $fileId, string $reason): int
    {
        if ('' === trim($reason)) {
            throw Refused::because(
                'reason',
                'Say why the file is withdrawn; the history keeps your words.',
                ProblemKind::Missing,
            );
        }

        return $this->transaction->run(function () use ($actor, $fileId, $reason): int {
            $file = $this->entities->find(BankFile::class, $fileId, LockMode::PESSIMISTIC_WRITE);
            if (null === $file || $file->companyId !== $actor->companyId) {
                throw Refused::because('', 'There is no such bank file in this company.', ProblemKind::Unknown);
            }
            $this->entities->refresh($file, LockMode::PESSIMISTIC_WRITE);
            $this->mayBe($file);
            $db = $this->entities->getConnection();
            $documents = $db->fetchFirstColumn(
                <<<'SQL'
                SELECT l.document_id
                FROM bank_file_line l
                JOIN document d ON d.id = l.document_id AND d.state = 'posted'
                WHERE l.bank_file_id = ?
                ORDER BY l.id
                SQL
                ,
                [$fileId],
            );
            $db->executeStatement('DELETE FROM bank_file_line WHERE bank_file_id = ?', [$fileId]);
            $file->withdrawnAt = $this->clock->now();
            $file->withdrawnById = $actor->userId;
            $this->entities->flush();
            $this->history->note($actor, 'bank_file', $fileId, 'withdrawn', $reason);
            if (FileFormat::Debit !== $file->format) {
                return 0;
            }
            $day = Day::latest($this->booksDay->of($actor->companyId), $file->payDate);
            foreach ($documents as $receipt) {
                $this->reverse->event($actor, (int) $receipt, $day, HowTakenBack::Withdrawn, $reason);
            }

            return \count($documents);
        });
    }

    /** @throws Refused */
    private function mayBe(BankFile $file): void
    {
        $not = match (true) {
            null !== $file->withdrawnAt => \sprintf('%s was withdrawn already.', $file->number),
            null !== $file->sentAt => \sprintf(
                '%s went to the bank on %s; what it pays comes back when the bank rejects it, or as returned.',
                $file->number,
                $file->sentAt->format('j M Y H:i'),
            ),
            FileFormat::Prenote === $file->format => \sprintf(
                '%s tests accounts and pays nothing; leave it.',
                $file->number,
            ),
            default => null,
        };
        if (null !== $not) {
            throw Refused::because('', $not);
        }
    }
}
