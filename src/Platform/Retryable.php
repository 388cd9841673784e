<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Driver\Exception as DriverException;
use Doctrine\DBAL\Exception\RetryableException;

/**
 * Whether a transaction that failed may simply be tried again. The whole chain of causes is looked at: what comes up last may only
 * say that a savepoint is gone, because the deadlock before it has rolled everything back.
 */
final class Retryable
{
    /** Error codes of MariaDB: lock time-out, deadlock, a node of a cluster that is not ready. */
    private const CODES = [1205, 1213, 1047];

    /** The server went away: the client library says so. */
    private const LOST = [2006, 2013];

    /** A savepoint that does not exist: a deadlock took the transaction with it. */
    private const SAVEPOINT_GONE = 1305;

    /** Cannot connect, the server went away or shuts down, the connection was killed, a node is not ready. */
    private const AWAY = [2002, 2003, 2006, 2013, 1053, 1927, 1047];

    /** Too large for the cluster however often it is tried. */
    private const NEVER = [1180];

    /** @param bool $committing whether the commit was sent: then a lost connection leaves open what happened */
    public static function is(\Throwable $e, bool $committing = false): bool
    {
        $retryable = false;
        for ($cause = $e; null !== $cause; $cause = $cause->getPrevious()) {
            $code = self::code($cause);
            if (\in_array($code, self::NEVER, true)) {
                return false;
            }
            if (\in_array($code, self::LOST, true)) {
                return !$committing;
            }
            $retryable =
                $retryable
                || $cause instanceof RetryableException
                || \in_array($code, self::CODES, true)
                || self::SAVEPOINT_GONE === $code;
        }

        return $retryable;
    }

    /** Whether the database cannot be reached at all: refused, gone, shutting down, or a node that takes nothing. */
    public static function isAway(\Throwable $e): bool
    {
        for ($cause = $e; null !== $cause; $cause = $cause->getPrevious()) {
            if (\in_array(self::code($cause), self::AWAY, true)) {
                return true;
            }
        }

        return false;
    }

    private static function code(\Throwable $cause): int
    {
        return match (true) {
            $cause instanceof \PDOException => (int) ($cause->errorInfo[1] ?? $cause->getCode()),
            $cause instanceof DriverException => (int) $cause->getCode(),
            default => 0,
        };
    }
}
