<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccount;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\StatementLine;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Placement\BankLine;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Takes a statement of a bank account in; nothing is posted by it. A statement that is there already, one whose lines are there in
 * part, and one that does not follow the one before are asked about. Source: rules.md, Bank statements.
 */
final readonly class TakeStatement
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private KnownLines $known,
        private Bulk $bulk,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param string $digest SHA-256 of the file, or of what was typed
     * @param Overlap $overlap what was said to lines that are there already
     * @param bool $gapMeant it was said that the opening balance need not follow
     *
     * @throws Refused
     */
    public function take(
        Actor $actor,
        int $bankId,
        BankStatement $statement,
        string $format,
        string $digest,
        Overlap $overlap = Overlap::Ask,
        bool $gapMeant = false,
        ?int $fileId = null,
    ): Statement {
        return $this->transaction->run(function () use (
            $actor,
            $bankId,
            $statement,
            $format,
            $digest,
            $overlap,
            $gapMeant,
            $fileId,
        ): Statement {
            // two who take the same file in wait for each other
            $bank = $this->entities->find(BankAccount::class, $bankId, LockMode::PESSIMISTIC_WRITE);
            if (null === $bank || $bank->companyId !== $actor->companyId || $bank->retired) {
                throw Refused::because(
                    'bank',
                    'There is no such bank account in use; choose one from the list.',
                    ProblemKind::Unknown,
                );
            }
            self::fits($statement, $bank);
            $lines = $this->newLines($actor, $bank, $statement, $digest, $overlap);
            $opening =
                $statement->closing - array_sum(array_map(static fn (StatementLine $l): int => $l->amount, $lines));
            $gap = $this->gap($bank, $statement, $opening, $gapMeant);
            $record = new Statement(
                $actor->companyId,
                $bankId,
                mb_substr($statement->number, 0, 60),
                $format,
                $digest,
                $statement->from,
                $statement->to,
                $opening,
                $statement->closing,
                $gap,
                $actor->userId,
                $this->clock->now(),
            );
            $record->fileId = $fileId;
            $this->entities->persist($record);
            $this->entities->flush();
            $this->bulk->insert(self::records($record, $lines));
            $this->history->note(
                $actor,
                'bank_statement',
                $record->id(),
                'taken in',
                \sprintf('%d lines, %s to %s', \count($lines), $statement->from->iso(), $statement->to->iso()),
            );

            return $record;
        });
    }

    /** @throws Refused when it is of another account, or of another currency */
    private static function fits(BankStatement $statement, BankAccount $bank): void
    {
        $statement->check();
        if ($statement->currency !== $bank->currency) {
            throw Refused::because(
                'bank',
                \sprintf(
                    'The statement is in %s, %s is kept in %s.',
                    $statement->currency,
                    $bank->name,
                    $bank->currency,
                ),
            );
        }
        $theirs = BankLine::plain($statement->account);
        $ours = array_filter([BankLine::plain($bank->iban), BankLine::plain($bank->accountNumber)]);
        // a bank code may stand before the number
        $same = array_filter($ours, static fn (string $own): bool => str_ends_with($theirs, ltrim($own, '0')));
        if ('' !== $theirs && [] !== $ours && [] === $same) {
            throw Refused::because(
                'bank',
                \sprintf(
                    'The statement is of account %s; %s has %s. Choose the bank account that it belongs to.',
                    mb_strimwidth($statement->account, 0, 40, '…'),
                    $bank->name,
                    implode(' and ', array_filter([$bank->iban, $bank->accountNumber])),
                ),
            );
        }
        foreach ($statement->lines as $n => $line) {
            if (0 === $line->amount) {
                throw Refused::because('file', \sprintf('Line %d of the statement has no amount.', $n + 1));
            }
        }
    }

    /**
     * @return list<StatementLine>
     *
     * @throws Refused when it is there already, whole or in part, and nobody said what to do about it
     */
    private function newLines(
        Actor $actor,
        BankAccount $bank,
        BankStatement $statement,
        string $digest,
        Overlap $overlap,
    ): array {
        $same = $this->known->statement($bank->id(), $digest, $statement);
        if (null !== $same && Overlap::Replace !== $overlap) {
            throw Refused::because(
                'overlap',
                \sprintf('This statement was taken in on %s already. Nothing is taken twice.', $same['taken']),
                ProblemKind::Asks,
            );
        }
        $known = $this->known->lines($bank->id(), $statement->lines);
        if ([] === $known && null === $same) {
            return $statement->lines;
        }
        if (Overlap::Ask === $overlap) {
            throw Refused::because(
                'overlap',
                \sprintf(
                    '%d of its %d lines are there already. Say whether to take only the others, to put it in the place of the '.
                        'statement that has them, or to keep both.',
                    \count($known),
                    \count($statement->lines),
                ),
                ProblemKind::Asks,
            );
        }
        if (Overlap::Replace === $overlap) {
            $this->known->drop($actor, array_values(array_unique([...$known, ...null === $same ? [] : [$same['id']]])));
        }
        $lines =
            Overlap::Skip === $overlap ? array_values(array_diff_key($statement->lines, $known)) : $statement->lines;

        return [] === $lines
            ? throw Refused::because('overlap', 'All of its lines are there already; there is nothing to take.')
            : $lines;
    }

    /** @throws Refused when it opens with another balance than the one before closed with, and nobody said that this is meant */
    private function gap(BankAccount $bank, BankStatement $statement, int $opening, bool $meant): int
    {
        $before = $this->known->before($bank->id(), $statement);
        if (null === $before || $before['closing'] === $opening) {
            return 0;
        }
        $say = static fn (int $minor): string => Money::of($minor, $bank->currency)->decimal();
        if (!$meant) {
            throw Refused::because(
                'gap_meant',
                \sprintf(
                    'It opens with %s on %s; the statement before closed with %s on %s. %s %s in between are missing. Take the missing '.
                        'statement in first, or say that this one is to be taken all the same.',
                    $say($opening),
                    $statement->from->long(),
                    $say($before['closing']),
                    $before['to'],
                    $say($opening - $before['closing']),
                    $bank->currency,
                ),
                ProblemKind::Asks,
            );
        }

        return $opening - $before['closing'];
    }

    /**
     * @param list<StatementLine> $lines
     *
     * @return list<Line>
     */
    private static function records(Statement $record, array $lines): array
    {
        $records = [];
        foreach ($lines as $n => $l) {
            $records[] = new Line(
                $record->id(),
                $record->companyId,
                $record->bankAccountId,
                $n + 1,
                $l->day,
                $l->value,
                $l->amount,
                mb_substr($l->text, 0, 500),
                mb_substr($l->reference, 0, 120),
                mb_substr($l->bankReference, 0, 120),
                mb_substr($l->party, 0, 140),
                mb_substr($l->account, 0, 60),
                mb_substr($l->check, 0, 20),
                $l->reversal,
            );
        }

        return $records;
    }
}
