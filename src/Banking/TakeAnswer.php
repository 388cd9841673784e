<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\HowTakenBack;
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
            $file = $this->sent($actor, $fileId);
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
            $duplicate = 'RJCT' === $answer->group && str_starts_with($answer->reason, 'Duplicate');
            $said = $duplicate ? ['accepted' => 0, 'rejected' => 0] : $this->decide($actor, $file, $answer);
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

    /**
     * What the bank said on paper, by mail or by nothing: every payment that waits is accepted but those named.
     *
     * @param list<string> $rejected end-to-end identifications
     *
     * @return array{accepted: int, rejected: int}
     *
     * @throws Refused when nothing waits, or a rejection has no reason
     */
    public function said(Actor $actor, int $fileId, array $rejected, string $reason): array
    {
        return $this->transaction->run(function () use ($actor, $fileId, $rejected, $reason): array {
            $file = $this->sent($actor, $fileId);
            $reason = mb_substr(trim($reason), 0, 105);
            if ([] !== $rejected && '' === $reason) {
                throw Refused::because('reason', 'Say why the bank rejected them, in its words.');
            }
            $waiting = $this->db->fetchFirstColumn(
                "SELECT end_to_end FROM bank_file_line WHERE bank_file_id = ? AND state = 'made' ORDER BY id FOR UPDATE",
                [$fileId],
            );
            if ([] === $waiting || [] !== array_diff($rejected, $waiting)) {
                throw Refused::because(
                    'file',
                    'What is named here was answered already by somebody else; load the page anew.',
                    ProblemKind::Taken,
                );
            }
            $lines = [];
            foreach ($waiting as $id) {
                $no = \in_array($id, $rejected, true);
                $lines[(string) $id] = ['accepted' => !$no, 'reason' => $no ? $reason : ''];
            }
            $said = $this->decide($actor, $file, new PaymentStatus($file->number, '', $lines, ''));
            $this->history->note(
                $actor,
                'bank_file',
                $fileId,
                'bank’s answer said',
                \sprintf('%d accepted, %d rejected', $said['accepted'], $said['rejected']),
            );

            return $said;
        });
    }

    /** @throws Refused when it never went to the bank */
    private function sent(Actor $actor, int $fileId): BankFile
    {
        $file = $this->entities->find(BankFile::class, $fileId, LockMode::PESSIMISTIC_WRITE);
        if (null === $file || $file->companyId !== $actor->companyId) {
            throw Refused::because('', 'There is no such bank file in this company.', ProblemKind::Unknown);
        }
        $this->entities->refresh($file, LockMode::PESSIMISTIC_WRITE);

        return null !== $file->sentAt
            ? $file
            : throw Refused::because(
                'file',
                \sprintf('%s was not sent yet; the bank cannot have answered.', $file->number),
            );
    }

    /** @return array{accepted: int, rejected: int} lines that this answer decided */
    private function decide(Actor $actor, BankFile $file, PaymentStatus $answer): array
    {
        $said = ['accepted' => 0, 'rejected' => 0];
        $lines = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT id, document_id, end_to_end
            FROM bank_file_line
            WHERE bank_file_id = ? AND state = 'made'
            ORDER BY id
            FOR UPDATE
            SQL
            ,
            [$file->id()],
        );
        foreach ($lines as $line) {
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
                    HowTakenBack::Rejected,
                    '' === $reason ? 'rejected by the bank' : $reason,
                    true,
                );
            }
        }

        return $said;
    }
}
