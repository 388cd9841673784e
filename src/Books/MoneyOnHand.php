<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccount;
use Nelbix\App\Bank\DepositLine;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DepositEntry;
use Nelbix\Core\Refused;

/** A receipt by check or cash that is taken back, on hand still or on a deposit slip by now. Call inside a transaction. */
final readonly class MoneyOnHand
{
    public function __construct(private EntityManagerInterface $entities, private LedgerWriter $ledger)
    {
    }

    /** @throws Refused when a deposit slip took it to the bank: no mistake of the receipt alone */
    public function mustNotBeDeposited(Document $document): void
    {
        $line = $this->deposited($document);
        if (null !== $line) {
            throw Refused::because(
                '',
                \sprintf(
                    '%s is on deposit slip %s; undo the slip first, or record that it bounced.',
                    $document->number,
                    $line->slip->number,
                ),
            );
        }
    }

    /**
     * The bank gives a check of a slip back: its account falls, and the check is on hand again until its receipt is reversed.
     *
     * @throws Refused before the deposit, or when the period is locked
     */
    public function takeBack(Actor $actor, Document $document, Day $day, string $word): void
    {
        $line = $this->deposited($document);
        if (null === $line) {
            return;
        }
        $slip = $line->slip;
        if ($day->isBefore($slip->depositedOn)) {
            throw Refused::because(
                'date',
                \sprintf(
                    'It went to the bank on %s, with %s; this cannot be dated before.',
                    $slip->depositedOn->long(),
                    $slip->number,
                ),
            );
        }
        $line->returnedOn = $day;
        $this->entities->flush();
        $bank =
            $this->entities->find(BankAccount::class, $slip->bankAccountId) ??
            throw new \LogicException('A slip has a bank account.');
        $text = \sprintf('%s of %s %s', $document->number, $slip->number, $word);
        $this->ledger->write(
            $actor,
            new EntryOrder(
                DepositEntry::draft(
                    $bank->accountId,
                    $slip->accountId,
                    $bank->currency,
                    -$line->amount,
                    -$line->amountBase,
                    $text,
                ),
                $day,
                $text,
                [],
                Source::deposit($slip->id()),
            ),
        );
    }

    private function deposited(Document $document): ?DepositLine
    {
        if (null === $document->onHandAccountId) {
            return null;
        }
        $id = $this->entities->getConnection()->fetchOne(
            <<<'SQL'
            SELECT l.id
            FROM deposit_line l
            JOIN deposit_slip s ON s.id = l.slip_id
            WHERE l.document_id = ? AND l.returned_on IS NULL AND s.reversed_on IS NULL
            FOR UPDATE
            SQL
            ,
            [$document->id],
        );

        return false === $id ? null : $this->entities->find(DepositLine::class, (int) $id, LockMode::PESSIMISTIC_WRITE);
    }
}
