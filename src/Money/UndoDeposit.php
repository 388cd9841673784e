<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\DepositSlip;
use Nelbix\App\Books\OnStatement;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** A slip that was closed by mistake: what stood on it is on hand again. On its own day, or the first open one after. */
final readonly class UndoDeposit
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private LedgerWriter $ledger,
        private PeriodGate $periods,
        private History $history,
        private OnStatement $onStatement,
    ) {
    }

    /** @throws Refused without a reason, twice, or once the bank gave a check of it back */
    public function undo(Actor $actor, int $id, string $reason): DepositSlip
    {
        if ('' === trim($reason)) {
            throw Refused::because(
                'reason',
                'Say why the slip is undone; the history keeps your words.',
                ProblemKind::Missing,
            );
        }

        return $this->transaction->run(function () use ($actor, $id, $reason): DepositSlip {
            $slip = $this->entities->find(DepositSlip::class, $id, LockMode::PESSIMISTIC_WRITE);
            if (null === $slip || $slip->companyId !== $actor->companyId) {
                throw Refused::because('', 'There is no such deposit slip in this company.', ProblemKind::Unknown);
            }
            $this->entities->refresh($slip, LockMode::PESSIMISTIC_WRITE);
            if (null !== $slip->reversedOn) {
                throw Refused::because(
                    '',
                    \sprintf('%s was undone already, as of %s.', $slip->number, $slip->reversedOn->long()),
                );
            }
            $this->onStatement->mustNotHold(Source::deposit($id));
            $db = $this->entities->getConnection();
            $returned = $db->fetchOne(
                <<<'SQL'
                SELECT d.number
                FROM deposit_line l
                JOIN document d ON d.id = l.document_id
                WHERE l.slip_id = ? AND l.returned_on IS NOT NULL
                LIMIT 1
                SQL
                ,
                [$id],
            );
            if (false !== $returned) {
                throw Refused::because(
                    '',
                    \sprintf(
                        'The bank gave %s of %s back, so it took the others; the slip stands.',
                        $returned,
                        $slip->number,
                    ),
                );
            }
            $day = $this->periods->firstOpen($actor->companyId, $slip->depositedOn, []);
            $slip->reversedOn = $day;
            $slip->reversedById = $actor->userId;
            $slip->reason = mb_substr(trim($reason), 0, 255);
            $this->entities->flush();
            $this->ledger->reverseOf($actor, Source::deposit($id), $day, $slip->number.' undone');
            $this->history->note($actor, 'deposit', $id, 'undone', $slip->reason);

            return $slip;
        });
    }
}
