<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

use Doctrine\DBAL\Exception as DatabaseException;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Retryable;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;
use Psr\Log\LoggerInterface;
use Symfony\Component\DependencyInjection\Attribute\Autowire;

/**
 * Works the job table, a slice at a time, each in its own transaction that also counts it. A worker first takes a lease on the job,
 * committed, so that no other begins, on this server or another; then it does the slice with the job's row locked and written. Any
 * number of workers may run. One that is killed leaves nothing behind but its lease, which runs out.
 */
final readonly class Worker
{
    /** Whose leases are mine: this process, and no other that gets its number later. */
    private string $name;

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private Kinds $kinds,
        private Progress $progress,
        private ClockInterface $clock,
        private LoggerInterface $logger,
        #[Autowire('%nelbix.job_lease%')] private int $leaseSeconds,
    ) {
        $this->name = substr((gethostname() ?: 'here').'-'.getmypid().'-'.bin2hex(random_bytes(6)), -60);
    }

    /**
     * Does one slice of the oldest job that nobody works on right now; false when there is none.
     *
     * @phpstan-impure
     */
    public function next(): bool
    {
        foreach (
            $this->entities
                ->getConnection()
                ->fetchFirstColumn("SELECT id FROM job WHERE state IN ('waiting', 'running') ORDER BY id LIMIT 20") as $id
        ) {
            if (null !== $this->slice((int) $id)) {
                return true;
            }
        }

        return false;
    }

    /**
     * Does a job to its end.
     *
     * @return Job how it ended
     */
    public function finish(int $jobId): Job
    {
        do {
            $state = $this->slice($jobId);
            if (null === $state) {
                // somebody else is at it
                usleep(20_000);
            }
            $job = $this->entities->find(Job::class, $jobId) ?? throw new \LogicException('There is no such job.');
            $this->entities->refresh($job);
        } while ($job->state->underWay());

        return $job;
    }

    /**
     * Does one slice of a job.
     *
     * @return JobState|null how the job stands then; null when somebody else works on it, or it has ended
     */
    public function slice(int $jobId): ?JobState
    {
        try {
            if (!$this->transaction->run(fn (): bool => $this->lease($jobId))) {
                return null;
            }

            $job = $this->entities->find(Job::class, $jobId) ?? throw new \LogicException('The job is gone.');
            $this->progress->begin($jobId, $this->name, $this->leaseSeconds);
            if ($this->kinds->of($job->kind)->onlyLooks($job)) {
                $slice = $this->kinds->of($job->kind)->slice($this->actor($job), $job, $this->progress);

                return $this->transaction->run(fn (): ?JobState => $this->counted($this->locked($jobId), $slice));
            }

            return $this->transaction->run(function () use ($jobId): ?JobState {
                $job = $this->locked($jobId);
                if (null === $job) {
                    return null;
                }
                $slice = $this->kinds->of($job->kind)->slice($this->actor($job), $job, $this->progress);
                // the work may have let go of everything it looked at, the job too
                $this->entities->flush();

                return $this->counted(
                    $this->entities->contains($job) ? $job : $this->entities->find(Job::class, $jobId),
                    $slice,
                );
            });
        } catch (Refused $e) {
            return $this->fail($jobId, $e->getMessage());
        } catch (DatabaseException\ConnectionException $e) {
            // the database went away: nothing of the slice is kept, and it is done again when it is back
            throw $e;
        } catch (\Throwable $e) {
            if (Retryable::is($e) || Retryable::isAway($e)) {
                // tried often enough for now; the work itself is not at fault, and goes on later
                $this->logger->warning('Long work was put off.', ['exception' => $e, 'job' => $jobId]);

                return null;
            }
            $this->logger->error('Long work failed.', ['exception' => $e, 'job' => $jobId]);

            return $this->fail(
                $jobId,
                'An error that nobody expected; it is in the log. What was done until then stands; start it again to do the rest.',
            );
        } finally {
            $this->progress->end();
            $this->entities->clear();
        }
    }

    /** @return JobState|null how it stands now; null when the job is not this worker's any more */
    private function counted(?Job $job, Slice $slice): ?JobState
    {
        if (null === $job) {
            return null;
        }
        $job->owner = $job->ownedUntil = null;
        $job->done += $slice->done;
        $job->state = JobState::Running;
        $job->result = $slice->result;
        if (!$slice->more) {
            $job->end(JobState::Done, '', $this->clock->now());
        }

        return $job->state;
    }

    private function fail(int $jobId, string $why): ?JobState
    {
        return $this->transaction->run(function () use ($jobId, $why): ?JobState {
            $job = $this->locked($jobId);
            $job?->end(JobState::Failed, $why, $this->clock->now());

            return $job?->state;
        });
    }

    /** Takes the job for a while, unless somebody else has it; written, so that two servers cannot both. */
    private function lease(int $jobId): bool
    {
        $db = $this->entities->getConnection();
        $free = <<<'SQL'
        id = ? AND state IN ('waiting', 'running') AND (owner IS NULL OR owner = ? OR owned_until < NOW(3))
        SQL;
        // who does a slice holds the row: it is passed by and not waited for
        if (false === $db->fetchOne("SELECT id FROM job WHERE $free FOR UPDATE SKIP LOCKED", [$jobId, $this->name])) {
            return false;
        }
        $db->executeStatement(
            <<<SQL
            UPDATE job SET owner = ?, owned_until = NOW(3) + INTERVAL ? SECOND, version = version + 1 WHERE $free
            SQL
            ,
            [$this->name, $this->leaseSeconds, $jobId, $this->name],
        );

        return true;
    }

    /** The job that was leased, locked; null when it ended, or somebody else took it over since. */
    private function locked(int $jobId): ?Job
    {
        $mine = $this->entities
            ->getConnection()
            ->fetchOne("SELECT id FROM job WHERE id = ? AND owner = ? AND state IN ('waiting', 'running') FOR UPDATE", [
                $jobId,
                $this->name,
            ]);
        $job = false === $mine ? null : $this->entities->find(Job::class, $jobId);
        if (null !== $job) {
            $this->entities->refresh($job);
        }

        return $job;
    }

    private function actor(Job $job): Actor
    {
        return new Actor(
            $job->companyId,
            (string) $this->entities
                ->getConnection()
                ->fetchOne('SELECT base_currency FROM company WHERE id = ?', [$job->companyId]),
            $job->userId,
        );
    }
}
