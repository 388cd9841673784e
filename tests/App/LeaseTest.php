<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\DBAL\Driver\PDO\Exception as DriverException;
use Doctrine\DBAL\Exception\DeadlockException;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Work\Job;
use Nelbix\App\Work\JobState;
use Nelbix\App\Work\Kinds;
use Nelbix\App\Work\LongWork;
use Nelbix\App\Work\Progress;
use Nelbix\App\Work\Slice;
use Nelbix\App\Work\StartWork;
use Nelbix\App\Work\Worker;
use Psr\Clock\ClockInterface;
use Psr\Log\NullLogger;

/** A job belongs to one worker at a time, for a while; what the database cannot do right now is no fault of the work. */
final class LeaseTest extends AppCase
{
    public function testOneWorkerAtATime(): void
    {
        $work = self::work(static fn (): Slice => new Slice(1, true));
        $job = $this->started($work);
        $lease = fn (string $who, string $until): mixed => $this->db()->executeStatement(
            "UPDATE job SET owner = ?, owned_until = NOW(3) + INTERVAL $until WHERE id = ?",
            [$who, $job],
        );
        $lease('another', '60 SECOND');
        self::assertNull($this->worker($work)->slice($job), 'another has it');
        self::assertSame(0, $this->done($job));
        $lease('another', '-1 SECOND');
        self::assertSame(JobState::Running, $this->worker($work)->slice($job), 'it ran out');
        self::assertSame(1, $this->done($job));
        self::assertNull($this->db()->fetchOne('SELECT owner FROM job WHERE id = ?', [$job]), 'given back');
        self::assertSame(JobState::Running, $this->worker($work)->slice($job), 'so the next may come');
    }

    /** A worker that was slow and lost its lease does not count its slice. */
    public function testALeaseThatWasLostInTheMiddle(): void
    {
        $work = self::work(function (Job $job): Slice {
            $this->db()->executeStatement('UPDATE job SET owner = ?, version = version + 1 WHERE id = ?', [
                'another',
                $job->id(),
            ]);

            return new Slice(1, false);
        });
        $job = $this->started($work);
        $this->worker($work)->slice($job);
        self::assertSame(0, $this->done($job), 'nothing of it is kept');
    }

    public function testADeadlockPutsTheWorkOffAndDoesNotFailIt(): void
    {
        $work = self::work(static function (): Slice {
            $pdo = new \PDOException('Deadlock found');
            $pdo->errorInfo = ['40001', 1213, 'Deadlock found'];
            throw new DeadlockException(DriverException::new($pdo), null);
        });
        $job = $this->started($work);
        self::assertNull($this->worker($work)->slice($job));
        self::assertSame('waiting', $this->db()->fetchOne('SELECT state FROM job WHERE id = ?', [$job]));
    }

    private function done(int $job): int
    {
        return (int) $this->db()->fetchOne('SELECT done FROM job WHERE id = ?', [$job]);
    }

    private function started(LongWork $work): int
    {
        return self::get(StartWork::class)->start($this->clerk, $work, 1, 'Test', 3);
    }

    private function worker(LongWork $work): Worker
    {
        return new Worker(
            self::get(Transaction::class),
            self::get(EntityManagerInterface::class),
            new Kinds([$work]),
            self::get(Progress::class),
            self::get(ClockInterface::class),
            new NullLogger(),
            60,
        );
    }

    /** @param \Closure(Job): Slice $slice */
    private static function work(\Closure $slice): LongWork
    {
        return new class($slice) implements LongWork {
            public function __construct(private readonly \Closure $slice)
            {
            }

            public function kind(): string
            {
                return 'test';
            }

            public function seenWith(): ?Permission
            {
                return null;
            }

            public function route(): string
            {
                return 'today';
            }

            public function onlyLooks(Job $job): bool
            {
                return false;
            }

            public function slice(Actor $actor, Job $job, Progress $progress): Slice
            {
                return ($this->slice)($job);
            }
        };
    }
}
