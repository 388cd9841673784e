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

    /** Too large for the cluster however often it is tried. */
    private const NEVER = [1180];

    /** @param bool $committing whether the commit was sent: then a lost connection leaves open what happened */
    public static function is(\Throwable $e, bool $committing = false): bool
    {
        $retryable = false;
        for ($cause = $e; null !== $cause; $cause = $cause->getPrevious()) {
            $code = match (true) {
                $cause instanceof \PDOException => (int) ($cause->errorInfo[1] ?? 0),
                $cause instanceof DriverException => (int) $cause->getCode(),
                default => 0,
            };
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
}
