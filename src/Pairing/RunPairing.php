<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Work\Job;
use Nelbix\App\Work\LongWork;
use Nelbix\App\Work\Progress;
use Nelbix\App\Work\Slice;
use Nelbix\App\Work\StartWork;
use Nelbix\Core\Pairing\RowPairer;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Runs the rules of a set, as long work: the rows are read anew, then each rule in its order takes what it finds, a step each that
 * commits. It can be stopped between two steps and gone on with.
 */
final readonly class RunPairing implements LongWork
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private PairingLock $lock,
        private RefreshRows $refresh,
        private FreeRows $free,
        private KeepPairs $keep,
        private StartWork $startWork,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @return int the run
     *
     * @throws Refused while it is being run, or without a rule that is switched on
     */
    public function start(Actor $actor, int $setId): int
    {
        return $this->transaction->run(function () use ($actor, $setId): int {
            $set = $this->lock->set($actor, $setId);
            $this->lock->mustNotRun($set);
            $rules = $this->rules($set);
            if ([] === $rules) {
                throw Refused::because('', 'No rule of this set is switched on; try one and switch it on first.');
            }
            // one whose work failed is over
            $this->entities
                ->getConnection()
                ->executeStatement(
                    "UPDATE pairing_run SET state = 'failed' WHERE set_id = ? AND state IN ('running', 'stopping')",
                    [$setId],
                );
            $run = new PairingRun($setId, $actor->companyId, $actor->userId, $this->clock->now());
            $this->entities->persist($run);
            $this->entities->flush();
            $this->startWork->start(
                $actor,
                $this,
                $setId,
                mb_substr('Pairing '.$set->name, 0, 100),
                1 + \count($rules),
                (string) $run->id(),
            );
            $this->history->note($actor, 'pairing_set', $setId, 'run');

            return $run->id();
        });
    }

    /** Between two steps; what was paired until then stays. */
    public function stop(Actor $actor, int $setId): void
    {
        $this->transaction->run(function () use ($actor, $setId): void {
            $set = $this->lock->set($actor, $setId);
            $run = $this->entities
                ->getRepository(PairingRun::class)
                ->findOneBy(['setId' => $set->id(), 'state' => 'running']);
            if (null === $run) {
                throw Refused::because('', 'The set is not being run.');
            }
            $run->state = 'stopping';
            $this->history->note($actor, 'pairing_set', $setId, 'stopped');
        });
    }

    /** @return list<PairingRuleRecord> those that are switched on, in their order */
    private function rules(PairingSet $set): array
    {
        return $this->entities
            ->getRepository(PairingRuleRecord::class)
            ->findBy(
                ['setId' => $set->id(), 'switchedOn' => true, 'retired' => false],
                ['place' => 'ASC', 'id' => 'ASC'],
            );
    }

    public function kind(): string
    {
        return 'pairing';
    }

    public function seenWith(): Permission
    {
        return Permission::SeeLedger;
    }

    public function route(): string
    {
        return 'pairing_set';
    }

    public function onlyLooks(Job $job): bool
    {
        return false;
    }

    public function slice(Actor $actor, Job $job, Progress $progress): Slice
    {
        $run =
            $this->entities->find(PairingRun::class, (int) $job->options) ??
            throw Refused::because('', 'The run is gone.');
        $this->entities->refresh($run);
        $set = $this->lock->set($actor, $run->setId);
        if ('stopping' === $run->state) {
            return $this->end($run, 'stopped');
        }
        if (0 === $run->step) {
            $rows = $this->refresh->refresh($set, $progress->at(...));
            $this->entities
                ->getConnection()
                ->executeStatement('UPDATE pairing_row SET tied = 0 WHERE set_id = ?', [$set->id()]);
            $run->counts = ['rows' => $rows];
            $run->step = 1;

            return new Slice(1, true);
        }
        $rules = $this->rules($set);
        $rule = $rules[$run->step - 1] ?? null;
        if (null === $rule) {
            return $this->end($run, 'done');
        }
        $left = array_column($this->free->of($set, 'left'), null, 'id');
        $right = array_column($this->free->of($set, 'right'), null, 'id');
        $found = RowPairer::byRule($left, $right, Clauses::rule($rule->place, $rule->clauses, $set->currency));
        $this->keep->keep($actor, $set->id(), $found->pairs, $run->id(), $rule->id());
        $this->keep->tied($set->id(), [...$found->tiedLeft, ...$found->tiedRight]);
        $run->counts = [...$run->counts, 'rule '.$rule->id() => \count($found->pairs)];
        ++$run->step;

        return $run->step > \count($rules) ? $this->end($run, 'done') : new Slice(1, true);
    }

    private function end(PairingRun $run, string $state): Slice
    {
        $run->state = $state;
        $run->endedAt = $this->clock->now();

        return new Slice(1, false);
    }
}
