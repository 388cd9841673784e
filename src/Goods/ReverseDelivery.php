<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Takes a delivery back on a day: recorded by mistake, goods sent back, or its invoice is entered. */
final readonly class ReverseDelivery
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private LedgerWriter $ledger,
        private PeriodGate $periods,
        private History $history,
    ) {
    }

    /** @throws Refused without a reason, before the delivery, in a locked period, or twice */
    public function reverse(Actor $actor, int $id, Day $day, string $reason): Delivery
    {
        return $this->transaction->run(function () use ($actor, $id, $day, $reason): Delivery {
            $delivery = $this->entities->find(Delivery::class, $id, LockMode::PESSIMISTIC_WRITE);
            if (null === $delivery || $delivery->companyId !== $actor->companyId) {
                throw Refused::because('', 'There is no such delivery in this company.', ProblemKind::Unknown);
            }
            $this->entities->refresh($delivery, LockMode::PESSIMISTIC_WRITE);
            if (null !== $delivery->reversedOn) {
                throw Refused::because(
                    '',
                    \sprintf('%s was already reversed on %s.', $delivery->number, $delivery->reversedOn->long()),
                );
            }
            if ('' === trim($reason)) {
                throw Refused::because(
                    'reason',
                    'Say why it is reversed: the invoice came, the goods went back, or it was a mistake.',
                );
            }
            if ($day->isBefore($delivery->deliveredOn)) {
                throw Refused::because(
                    'date',
                    \sprintf(
                        'The goods came on %s; the reversal cannot be dated before.',
                        $delivery->deliveredOn->long(),
                    ),
                );
            }
            $this->periods->mustBeOpen($actor->companyId, $day, [], 'date');
            $delivery->reversedOn = $day;
            $delivery->reversedById = $actor->userId;
            $delivery->reason = mb_substr(trim($reason), 0, 255);
            $this->entities->flush();
            $this->ledger->reverseOf($actor, Source::delivery($id), $day, $delivery->number.' reversed');
            $this->history->note($actor, 'delivery', $id, 'reversed', $delivery->reason);

            return $delivery;
        });
    }
}
