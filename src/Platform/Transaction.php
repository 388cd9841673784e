<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Doctrine\Persistence\ManagerRegistry;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\Autowire;

/**
 * Runs a use case in one transaction. A deadlock, a lock time-out or a server that went away is tried again; a use case inside
 * another one joins it. Numbers are given in the last statements before the commit.
 */
final class Transaction
{
    private const TRIES = 20;

    private const OF_FORM = ' WHERE company_id = ? AND user_id = ? AND what = ? AND form_key = ?';

    private int $depth = 0;

    /** The commit was sent: if the server goes away now, nobody knows whether it happened. */
    private bool $committing = false;

    /** @param bool $sharedConnection the tests keep one connection for everything, which is never closed */
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly ManagerRegistry $registry,
        private readonly Numbering $numbering,
        #[Autowire('%nelbix.shared_connection%')] private readonly bool $sharedConnection = false,
        private readonly ?Disk $disk = null,
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
        $this->disk?->mustHaveRoom();
        for ($try = 1;; ++$try) {
            try {
                return $this->tryIt($useCase);
            } catch (\Throwable $e) {
                if ($try >= self::TRIES || !Retryable::is($e, $this->committing)) {
                    throw $e;
                }
                // growing and random, so that those who met do not meet again
                usleep(random_int(1_000, 10_000) * min($try, 12));
            }
        }
    }

    /**
     * The same form sent twice, however close, does its work once: the second waits for the first and gets what it made.
     *
     * @param string $what the use case, such as invoice
     * @param FormKey|null $form without one the use case simply runs
     * @param callable(): int $useCase gives the id of what it made
     *
     * @throws Refused when the form was sent before with other words in it
     */
    public function once(Actor $actor, string $what, ?FormKey $form, callable $useCase): int
    {
        if (null === $form) {
            return $this->run($useCase);
        }

        return $this->run(function () use ($actor, $what, $form, $useCase): int {
            $db = $this->entities->getConnection();
            // an equal post that is under way holds the row: this waits until it is committed, or gone
            $mine = $db->executeStatement(
                'INSERT IGNORE INTO done_once (company_id, user_id, what, form_key, content) VALUES (?, ?, ?, ?, ?)',
                [$actor->companyId, $actor->userId, $what, $form->key, $form->content],
            );
            if (0 === (int) $mine) {
                return (int) $this->made($actor, $what, $form);
            }
            $made = $useCase();
            $db->executeStatement('UPDATE done_once SET made_id = ?'.self::OF_FORM, [
                $made,
                $actor->companyId,
                $actor->userId,
                $what,
                $form->key,
            ]);

            return $made;
        });
    }

    /**
     * What the form made when it was sent before; null when it was not.
     *
     * @throws Refused when it was sent before with other words in it
     */
    public function made(Actor $actor, string $what, ?FormKey $form): ?int
    {
        $before =
            null === $form
                ? false
                : $this->entities
                    ->getConnection()
                    ->fetchAssociative('SELECT made_id, content FROM done_once'.self::OF_FORM, [
                        $actor->companyId,
                        $actor->userId,
                        $what,
                        $form->key,
                    ]);
        if (false === $before || null === $before['made_id']) {
            return null;
        }
        if ($form?->content !== ($before['content'] ?? $form?->content)) {
            throw Refused::because(
                '',
                'This page was posted once already, with something else in it; what was posted then stands. '.
                    'Open a new page for this one, or take back what was posted.',
            );
        }

        return (int) $before['made_id'];
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
        $mark = $this->numbering->mark();
        $connection->beginTransaction();
        try {
            $result = $part();
            $this->entities->flush();
            $connection->commit();

            return $result;
        } catch (\Throwable $e) {
            $this->numbering->forget($mark);
            $this->rollBack($connection, $e);
            $this->entities->clear();
            throw $e;
        }
    }

    /**
     * @template T
     *
     * @param callable(): T $useCase
     *
     * @return T
     */
    private function tryIt(callable $useCase): mixed
    {
        $connection = $this->entities->getConnection();
        ++$this->depth;
        $this->committing = false;
        try {
            $connection->beginTransaction();
            $result = $useCase();
            $this->entities->flush();
            $this->numbering->give();
            $this->committing = true;
            $connection->commit();

            return $result;
        } catch (\Throwable $e) {
            $this->numbering->forget();
            $this->rollBack($connection, $e);
            if ($this->entities->isOpen()) {
                $this->entities->clear();
            } else {
                $this->registry->resetManager();
            }
            throw $e;
        } finally {
            --$this->depth;
        }
    }

    /**
     * After a refusal, or what was only tried, the connection is as good as before. After anything else nobody knows what the
     * server and the driver think of the transaction (a deadlock answered at the commit leaves the driver believing in one), so it
     * is closed; the next statement opens it anew.
     */
    private function rollBack(Connection $connection, \Throwable $why): void
    {
        try {
            if ($connection->isTransactionActive()) {
                $connection->rollBack();
            }
        } catch (\Throwable) {
            // it is closed below
        }
        if (!$this->sharedConnection && !($why instanceof Refused) && !($why instanceof NothingKept)) {
            $connection->close();
        }
    }
}
