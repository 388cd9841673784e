<?php

declare(strict_types=1);

namespace Nelbix\App\Platform\Operate;

use Doctrine\Bundle\DoctrineBundle\Attribute\AsMiddleware;
use Doctrine\DBAL\Driver;
use Doctrine\DBAL\Driver\Connection as DriverConnection;
use Doctrine\DBAL\Driver\Middleware;
use Doctrine\DBAL\Driver\Middleware\AbstractConnectionMiddleware;
use Doctrine\DBAL\Driver\Middleware\AbstractDriverMiddleware;
use Doctrine\DBAL\Driver\Middleware\AbstractStatementMiddleware;
use Doctrine\DBAL\Driver\Result;
use Doctrine\DBAL\Driver\Statement;
use Psr\Log\LoggerInterface;
use Symfony\Component\DependencyInjection\Attribute\Autowire;

/**
 * Writes down statements that take long, with the use case or query class that asked: log/slow.log. What was asked for is not written, only
 * how; values stand in no log.
 */
#[AsMiddleware]
final readonly class SlowQueries implements Middleware
{
    public function __construct(
        #[Autowire(service: 'monolog.logger.slow')] private LoggerInterface $logger,
        #[Autowire('%env(int:default:nelbix.slow_ms:NELBIX_SLOW_MS)%')] private int $milliseconds,
    ) {
    }

    public function wrap(Driver $driver): Driver
    {
        $timed = $this->timed(...);

        return new class($driver, $timed) extends AbstractDriverMiddleware {
            public function __construct(Driver $driver, private readonly \Closure $timed)
            {
                parent::__construct($driver);
            }

            public function connect(#[\SensitiveParameter] array $params): DriverConnection
            {
                return new class(parent::connect($params), $this->timed) extends AbstractConnectionMiddleware {
                    public function __construct(DriverConnection $connection, private readonly \Closure $timed)
                    {
                        parent::__construct($connection);
                    }

                    public function query(string $sql): Result
                    {
                        return ($this->timed)($sql, fn (): Result => parent::query($sql));
                    }

                    public function exec(string $sql): int|string
                    {
                        return ($this->timed)($sql, fn (): int|string => parent::exec($sql));
                    }

                    public function prepare(string $sql): Statement
                    {
                        return new class(parent::prepare($sql), $sql, $this->timed) extends AbstractStatementMiddleware {
                            public function __construct(
                                Statement $statement,
                                private readonly string $sql,
                                private readonly \Closure $timed,
                            ) {
                                parent::__construct($statement);
                            }

                            public function execute(): Result
                            {
                                return ($this->timed)($this->sql, fn (): Result => parent::execute());
                            }
                        };
                    }
                };
            }
        };
    }

    /**
     * @template T
     *
     * @param \Closure(): T $run
     *
     * @return T
     */
    private function timed(string $sql, \Closure $run): mixed
    {
        $start = hrtime(true);
        try {
            return $run();
        } finally {
            $took = (hrtime(true) - $start) / 1e6;
            if ($took >= $this->milliseconds) {
                $this->logger->warning(\sprintf('%d ms', $took), [
                    'use_case' => self::useCase(),
                    'sql' => mb_substr((string) preg_replace('/\s+/', ' ', self::withoutValues($sql)), 0, 2000),
                ]);
            }
        }
    }

    /** The innermost class of an area that asked for it. */
    private static function useCase(): string
    {
        foreach (debug_backtrace(\DEBUG_BACKTRACE_IGNORE_ARGS, 60) as $frame) {
            $class = $frame['class'] ?? '';
            if (str_starts_with($class, 'Nelbix\App\\') && !str_starts_with($class, 'Nelbix\App\Platform\\')) {
                return substr($class, 11).'::'.$frame['function'];
            }
        }

        return '';
    }

    private static function withoutValues(string $sql): string
    {
        return (string) preg_replace(["/'(?:[^'\\\\]|\\\\.|'')*'/", '/\b\d+(, ?\d+)+\b/'], ["'…'", '…'], $sql);
    }
}
