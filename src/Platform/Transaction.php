<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\Exception\RetryableException;
use Doctrine\ORM\EntityManagerInterface;
use Doctrine\Persistence\ManagerRegistry;

/**
 * Runs a use case in one transaction. A deadlock or lock time-out is tried again; a use case inside another one joins it.
 */
final class Transaction
{
    private const TRIES = 4;

    private int $depth = 0;

    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly ManagerRegistry $registry,
    ) {
    }

    /**
     * @template T
     *
     * @param callable(): T $useCase
     *
     * @return T
     */
    public function run(callable $useCase): mixed
    {
        if ($this->depth > 0) {
            return $useCase();
        }
        for ($try = 1;; ++$try) {
            $connection = $this->entities->getConnection();
            $connection->beginTransaction();
            ++$this->depth;
            try {
                $result = $useCase();
                $this->entities->flush();
                $connection->commit();

                return $result;
            } catch (\Throwable $e) {
                $this->rollBack($connection);
                if ($this->entities->isOpen()) {
                    $this->entities->clear();
                } else {
                    $this->registry->resetManager();
                }
                if (!($e instanceof RetryableException) || $try >= self::TRIES) {
                    throw $e;
                }
                usleep(random_int(5_000, 50_000) * $try);
            } finally {
                --$this->depth;
            }
        }
    }

    /**
     * Runs something that may fail and be gone on from: inside a use case only what it did itself is taken back.
     *
     * @template T
     *
     * @param callable(): T $part
     *
     * @return T
     */
    public function attempt(callable $part): mixed
    {
        if (0 === $this->depth) {
            return $this->run($part);
        }
        $connection = $this->entities->getConnection();
        $this->entities->flush();
        $connection->beginTransaction();
        try {
            $result = $part();
            $this->entities->flush();
            $connection->commit();

            return $result;
        } catch (\Throwable $e) {
            $this->rollBack($connection);
            $this->entities->clear();
            throw $e;
        }
    }

    /** A connection that is gone has rolled back by itself; it is opened anew when it is needed next. */
    private function rollBack(Connection $connection): void
    {
        try {
            if ($connection->isTransactionActive()) {
                $connection->rollBack();
            }
        } catch (\Throwable) {
            $connection->close();
        }
    }
}
