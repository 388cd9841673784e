<?php

declare(strict_types=1);

namespace Nelbix\Tests\House;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\Driver\PDO\Exception as PdoDriverException;
use Doctrine\DBAL\Exception\DriverException;
use Doctrine\ORM\EntityManagerInterface;
use Doctrine\Persistence\ManagerRegistry;
use Nelbix\App\Platform\Disk;
use Nelbix\App\Platform\FiscalYears;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * What the runner does when the database answers with an error, on a connection that answers as MariaDB was seen to: a deadlock
 * takes the savepoints with it, and one that is answered at the commit leaves the driver believing in a transaction.
 */
final class TransactionTest extends TestCase
{
    private int $begun = 0;
    private int $closed = 0;
    private int $commits = 0;

    private static function error(int $code): DriverException
    {
        $pdo = new \PDOException('SQLSTATE[HY000]: '.$code, $code);
        $pdo->errorInfo = ['HY000', $code, 'said'];

        return new DriverException(PdoDriverException::new($pdo), null);
    }

    /** @param list<\Throwable|null> $atCommit what each commit answers */
    private function runner(array $atCommit = []): Transaction
    {
        $this->begun = $this->closed = $this->commits = 0;
        $connection = $this->createStub(Connection::class);
        $connection->method('beginTransaction')->willReturnCallback(function (): void {
            ++$this->begun;
        });
        $connection->method('isTransactionActive')->willReturn(true);
        $connection->method('close')->willReturnCallback(function (): void {
            ++$this->closed;
        });
        $connection->method('commit')->willReturnCallback(function () use (&$atCommit): void {
            ++$this->commits;
            $answer = array_shift($atCommit);
            if (null !== $answer) {
                throw $answer;
            }
        });
        $entities = $this->createStub(EntityManagerInterface::class);
        $entities->method('getConnection')->willReturn($connection);
        $entities->method('isOpen')->willReturn(true);

        return new Transaction(
            $entities,
            $this->createStub(ManagerRegistry::class),
            new Numbering($connection, $this->createStub(FiscalYears::class)),
        );
    }

    /** @return iterable<string, array{\Throwable}> */
    public static function retryable(): iterable
    {
        yield 'a deadlock' => [self::error(1213)];
        yield 'a lock time-out' => [self::error(1205)];
        yield 'a savepoint that a deadlock took away' => [self::error(1305)];
        yield 'a deadlock hidden behind what came after' => [new \RuntimeException('in flush', 0, self::error(1213))];
        yield 'a node that is not ready' => [self::error(1047)];
        yield 'a server that went away' => [self::error(2006)];
        yield 'a connection lost in a query' => [self::error(2013)];
    }

    #[DataProvider('retryable')]
    public function testItIsTriedAgainOnANewConnection(\Throwable $e): void
    {
        $tries = 0;
        $result = $this->runner()->run(static function () use (&$tries, $e): string {
            if (++$tries < 3) {
                throw $e;
            }

            return 'made';
        });
        self::assertSame(['made', 3, 3, 2, 1], [$result, $tries, $this->begun, $this->closed, $this->commits]);
    }

    public function testADeadlockAtTheCommitIsTriedAgainInATransactionOfItsOwn(): void
    {
        $tries = 0;
        $this->runner([self::error(1213)])->run(static function () use (&$tries): void {
            ++$tries;
        });
        self::assertSame(
            [2, 2, 1],
            [$tries, $this->begun, $this->closed],
            'the connection that believes in a transaction is gone',
        );
    }

    /** @return iterable<string, array{\Throwable, list<\Throwable|null>, int}> what the use case throws, what the commit answers, closed */
    public static function final(): iterable
    {
        yield 'a refusal keeps the connection' => [Refused::because('', 'no'), [], 0];
        yield 'a write set too large for the cluster' => [self::error(1180), [], 1];
        yield 'a deadlock that was a write set too large' => [new \RuntimeException('', 0, self::error(1180)), [], 1];
        yield 'a duplicate key' => [self::error(1062), [], 1];
        yield 'an error of our own' => [new \LogicException('a bug'), [], 1];
    }

    /** @param list<\Throwable|null> $atCommit */
    #[DataProvider('final')]
    public function testItIsNotTriedAgain(\Throwable $e, array $atCommit, int $closed): void
    {
        $tries = 0;
        $up = null;
        try {
            $this->runner($atCommit)->run(static function () use (&$tries, $e): void {
                ++$tries;
                throw $e;
            });
        } catch (\Throwable $caught) {
            $up = $caught;
        }
        self::assertSame($e, $up, 'it comes up');
        self::assertSame([1, $closed, 0], [$tries, $this->closed, $this->commits]);
    }

    /** Nobody knows whether a commit happened that lost its connection: doing it again might do it twice. */
    public function testAConnectionLostInTheCommitIsNotTriedAgain(): void
    {
        $tries = 0;
        $this->expectException(DriverException::class);
        try {
            $this->runner([self::error(2013)])->run(static function () use (&$tries): void {
                ++$tries;
            });
        } finally {
            self::assertSame(1, $tries);
        }
    }

    public function testItGivesUpAfterTwentyTries(): void
    {
        $tries = 0;
        try {
            $this->runner()->run(static function () use (&$tries): void {
                ++$tries;
                throw self::error(1213);
            });
        } catch (DriverException) {
        }
        self::assertSame(20, $tries);
    }

    /** Nothing is begun while the disk is nearly full. */
    public function testANearlyFullDiskRefuses(): void
    {
        $connection = $this->createMock(Connection::class);
        $connection->expects(self::never())->method('beginTransaction');
        $entities = $this->createStub(EntityManagerInterface::class);
        $entities->method('getConnection')->willReturn($connection);
        $full = new Disk(sys_get_temp_dir(), \PHP_INT_MAX);
        $run = new Transaction(
            $entities,
            $this->createStub(ManagerRegistry::class),
            new Numbering($connection, $this->createStub(FiscalYears::class)),
            false,
            $full,
        );
        try {
            $run->run(static fn () => self::fail('It was begun.'));
        } catch (Refused $e) {
            self::assertStringContainsString('nothing was changed', $e->getMessage());
        }
        (new Disk(sys_get_temp_dir(), 1))->mustHaveRoom();
        (new Disk(null))->mustHaveRoom();
    }
}
