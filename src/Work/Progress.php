<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\DriverManager;
use Doctrine\DBAL\Exception as DatabaseException;
use Symfony\Contracts\Service\ResetInterface;

/** How far a slice is that takes longer than a moment. Written on a connection of its own, so that it is seen before the slice commits. */
final class Progress implements ResetInterface
{
    private const EVERY_SECONDS = 0.3;

    private ?Connection $own = null;
    private int $job = 0;
    private float $told = 0;
    private string $owner = '';
    private int $leaseSeconds = 0;

    public function __construct(private readonly Connection $db)
    {
    }

    /** @param string $owner whose lease on the job is prolonged while there is progress */
    public function begin(int $jobId, string $owner, int $leaseSeconds): void
    {
        [$this->job, $this->owner, $this->leaseSeconds] = [$jobId, $owner, $leaseSeconds];
        $this->told = microtime(true);
    }

    /** @param int $done of this slice, until now */
    public function at(int $done): void
    {
        if (0 === $this->job || microtime(true) - $this->told < self::EVERY_SECONDS) {
            return;
        }
        $this->told = microtime(true);
        if (null === $this->own) {
            // the tests' mark of a shared connection would bring the same one
            /** @var array{driver: 'pdo_mysql'} $parameters */
            $parameters = array_diff_key($this->db->getParams(), ['dama.connection_key' => 1]);
            $this->own = DriverManager::getConnection($parameters);
        }
        $this->say('REPLACE INTO job_progress (job_id, done) VALUES (?, ?)', [$this->job, $done]);
        // a slice that holds the job's row is passed by anyhow: only who holds nothing needs the lease, and only that one can write it
        $this->say(
            <<<'SQL'
            UPDATE job SET owned_until = NOW(3) + INTERVAL ? SECOND
            WHERE id = (SELECT j.id FROM job j WHERE j.id = ? AND j.owner = ? FOR UPDATE SKIP LOCKED)
            SQL
            ,
            [$this->leaseSeconds, $this->job, $this->owner],
        );
    }

    /** The slice is over; the job itself says how far it is. */
    public function end(): void
    {
        $this->say('DELETE FROM job_progress WHERE job_id = ?', [$this->job]);
        $this->job = 0;
    }

    /**
     * That nobody can be told how far it is, is no reason to stop the work.
     *
     * @param list<int|string> $values
     */
    private function say(string $sql, array $values): void
    {
        $own = $this->own;
        if (null === $own) {
            return;
        }
        try {
            $own->executeStatement($sql, $values);
        } catch (DatabaseException) {
            $own->close();
            $this->own = null;
        }
    }

    public function reset(): void
    {
        $this->own?->close();
        $this->own = null;
        $this->job = 0;
    }
}
