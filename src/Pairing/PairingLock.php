<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Finds a set of this company, or one that it is the other side of, and holds it. Call inside a transaction. */
final readonly class PairingLock
{
    public function __construct(private EntityManagerInterface $entities)
    {
    }

    /** @throws Refused when there is none */
    public function set(Actor $actor, int $id, bool $hold = true): PairingSet
    {
        $set = $this->entities->find(PairingSet::class, $id, $hold ? LockMode::PESSIMISTIC_WRITE : null);
        if (null === $set || !\in_array($actor->companyId, [$set->companyId, $set->otherCompanyId], true)) {
            throw Refused::because('', 'There is no such pairing set in this company.', ProblemKind::Unknown);
        }
        if ($hold) {
            $this->entities->refresh($set, LockMode::PESSIMISTIC_WRITE);
        }

        return $set;
    }

    /** @throws Refused when there is none in this set, or it was undone meanwhile */
    public function pair(PairingSet $set, int $id): PairRecord
    {
        $pair = $this->entities->find(PairRecord::class, $id, LockMode::PESSIMISTIC_WRITE);
        if (null === $pair || $pair->setId !== $set->id()) {
            throw Refused::because('', 'There is no such pair in this set.', ProblemKind::Unknown);
        }
        $this->entities->refresh($pair, LockMode::PESSIMISTIC_WRITE);
        if (PairState::Undone === $pair->state) {
            throw Refused::because('', 'The pair was undone meanwhile; load the page anew.');
        }

        return $pair;
    }

    /** @throws Refused when the difference of a pair was posted in the other company, whose books are not ours to change */
    public function mustAdjust(Actor $actor, PairRecord $pair): void
    {
        $company = $this->entities
            ->getConnection()
            ->fetchOne(
                'SELECT company_id FROM document WHERE id = ? UNION ALL SELECT company_id FROM journal_entry WHERE id = ?',
                [$pair->documentId ?? 0, $pair->entryId ?? 0],
            );
        if ((int) $company !== $actor->companyId) {
            throw Refused::because('', 'Its difference was posted in the other company; take the pair apart there.');
        }
    }

    /** @throws Refused while pairs stand: their rows are of the sources that the set has */
    public function mustBeFree(PairingSet $set): void
    {
        $stands = $this->entities
            ->getConnection()
            ->fetchOne("SELECT COUNT(*) FROM pairing_pair WHERE set_id = ? AND state <> 'undone'", [$set->id()]);
        if ((int) $stands > 0) {
            throw Refused::because(
                'left',
                \sprintf(
                    'In this set %d pairs stand. What its sides are, their currency, their sign and who adjusts change when '.
                        'those are undone; or make another set.',
                    $stands,
                ),
            );
        }
    }

    /** @throws Refused while the set is being run */
    public function mustNotRun(PairingSet $set): void
    {
        $runs = $this->entities
            ->getConnection()
            ->fetchOne(
                "SELECT id FROM job WHERE kind = 'pairing' AND subject_id = ? AND state IN ('waiting', 'running') LIMIT 1",
                [$set->id()],
            );
        if (false !== $runs) {
            throw Refused::because('', 'The set is being run; wait until it is through, or stop it.');
        }
    }
}
