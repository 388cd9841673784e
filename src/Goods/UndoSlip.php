<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** What a slip sent back or cleared is where it was before: received and not invoiced, or invoiced and not received. */
final readonly class UndoSlip
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private Slips $slips,
        private MovedBack $movedBack,
        private ReturnedGoods $returned,
        private ReverseDocument $reverse,
        private PeriodGate $periods,
    ) {
    }

    /** @throws Refused without a reason, before the slip, in a locked period, or twice */
    public function undo(Actor $actor, int $id, Day $day, string $reason): GoodsSlip
    {
        return $this->transaction->run(function () use ($actor, $id, $day, $reason): GoodsSlip {
            $slip = $this->entities->find(GoodsSlip::class, $id, LockMode::PESSIMISTIC_WRITE);
            if (null === $slip || $slip->companyId !== $actor->companyId) {
                throw Refused::because('', 'There is no such slip in this company.', ProblemKind::Unknown);
            }
            $this->entities->refresh($slip, LockMode::PESSIMISTIC_WRITE);
            if (null !== $slip->undoneOn) {
                throw Refused::because(
                    '',
                    \sprintf('%s was already undone on %s.', $slip->number, $slip->undoneOn->long()),
                    ProblemKind::Taken,
                );
            }
            if (MoveKind::Arrived === $slip->kind) {
                throw Refused::because(
                    '',
                    \sprintf('%s is undone with its delivery or its invoice; take one of them back.', $slip->number),
                );
            }
            if ('' === trim($reason)) {
                throw Refused::because(
                    'reason',
                    'Say why it is undone; the history keeps your words.',
                    ProblemKind::Missing,
                );
            }
            if ($day->isBefore($slip->movedOn)) {
                throw Refused::because(
                    'date',
                    \sprintf('It is of %s; this cannot be dated before.', $slip->movedOn->long()),
                );
            }
            $this->periods->mustBeOpen($actor->companyId, $day, [], 'date');
            $this->returned->mustNotBeCredited($id);
            foreach ($this->returned->claims($id) as $claim) {
                $this->reverse->reverse($actor, $claim, $reason);
            }
            $this->slips->undo($actor, $slip, $day, $reason);
            $this->movedBack->mustFit($actor, $id);

            return $slip;
        });
    }
}
