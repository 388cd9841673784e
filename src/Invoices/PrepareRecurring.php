<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Prepares the recurring documents that are due as drafts. Each day of each is made once, however often and by however many this runs. */
final readonly class PrepareRecurring
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private KeepDraft $keepDraft,
    ) {
    }

    /** @return int how many drafts were made */
    public function prepare(Actor $actor, Day $today, ?Side $side = null): int
    {
        $made = 0;
        $ids = $this->entities
            ->getConnection()
            ->fetchFirstColumn(
                'SELECT id FROM recurring WHERE company_id = ? AND stopped = 0 AND next_on <= ?'.
                    (null === $side ? '' : ' AND side = '.$this->entities->getConnection()->quote($side->value)).
                    ' ORDER BY next_on, id',
                [$actor->companyId, $today->iso()],
            );
        foreach ($ids as $id) {
            // one day a transaction: a worker that is killed goes on where it stood
            while ($this->transaction->run(fn (): bool => $this->one($actor, (int) $id, $today))) {
                ++$made;
            }
        }

        return $made;
    }

    private function one(Actor $actor, int $id, Day $today): bool
    {
        $recurring = $this->entities->find(Recurring::class, $id, LockMode::PESSIMISTIC_WRITE);
        if (null === $recurring) {
            return false;
        }
        $this->entities->refresh($recurring, LockMode::PESSIMISTIC_WRITE);
        $day = $recurring->nextOn;
        if ($recurring->stopped || null === $day || $day->isAfter($today)) {
            return false;
        }
        $draft = $this->keepDraft->keep($actor, $recurring->side, [
            ...$recurring->form,
            'document_date' => $day->long(),
        ]);
        $draft->recurringId = $id;
        $draft->recurringOn = $day;
        $recurring->wasMade();

        return true;
    }
}
