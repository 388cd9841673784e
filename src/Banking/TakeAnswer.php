<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Payment\PaymentStatus;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Takes the bank's answer to a file: an accepted payment stands, a rejected one goes back and its invoices open again. */
final readonly class TakeAnswer
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private Connection $db,
        private ReverseDocument $reverseDocument,
        private BooksDay $booksDay,
        private History $history,
    ) {
    }

    /**
     * @return array{accepted: int, rejected: int} lines that this answer decided
     *
     * @throws Refused when it is no answer, or one to another file
     */
    public function take(Actor $actor, int $fileId, string $xml): array
    {
        $answer = PaymentStatus::read($xml);

        return $this->transaction->run(function () use ($actor, $fileId, $xml, $answer): array {
            $file = $this->entities->find(BankFile::class, $fileId, LockMode::PESSIMISTIC_WRITE);
            if (null === $file || $file->companyId !== $actor->companyId) {
                throw Refused::because('', 'There is no such bank file in this company.', ProblemKind::Unknown);
            }
            if ($answer->fileId !== $file->number) {
                throw Refused::because(
                    'file',
                    \sprintf(
                        'This answers the file %s, not %s.',
                        mb_strimwidth($answer->fileId, 0, 40, '…'),
                        $file->number,
                    ),
                );
            }
            if (null === $file->sentAt) {
                throw Refused::because(
                    'file',
                    \sprintf('%s was not sent yet; the bank cannot have answered.', $file->number),
                );
            }
            $said = ['accepted' => 0, 'rejected' => 0];
            $duplicate = 'RJCT' === $answer->group && str_starts_with($answer->reason, 'Duplicate');
            foreach (
                $duplicate
                    ? []
                    : $this->db->fetchAllAssociative(
                        <<<SQL
                        SELECT id, document_id, end_to_end
                        FROM bank_file_line
                        WHERE bank_file_id = ? AND state = 'made'
                        ORDER BY id
                        FOR UPDATE
                        SQL
                        ,
                        [$fileId],
                    ) as $line
            ) {
                $accepted = $answer->of((string) $line['end_to_end']);
                if (null === $accepted) {
                    continue;
                }
                $reason = trim($answer->lines[(string) $line['end_to_end']]['reason'] ?? '' ?: $answer->reason);
                $this->db->executeStatement('UPDATE bank_file_line SET state = ?, reason = ? WHERE id = ?', [
                    $accepted ? 'accepted' : 'rejected',
                    mb_substr($accepted ? '' : $reason, 0, 255),
                    $line['id'],
                ]);
                ++$said[$accepted ? 'accepted' : 'rejected'];
                if (!$accepted) {
                    $this->reverseDocument->event(
                        $actor,
                        (int) $line['document_id'],
                        Day::latest($this->booksDay->of($actor->companyId), $file->payDate),
                        'rejected by the bank',
                        '' === $reason ? 'rejected by the bank' : $reason,
                    );
                }
            }
            $file->answer = $xml;
            $this->history->note(
                $actor,
                'bank_file',
                $fileId,
                $duplicate ? 'answered: duplicate, not taken' : 'answered',
                \sprintf('%d accepted, %d rejected', $said['accepted'], $said['rejected']),
            );

            return $said;
        });
    }
}
