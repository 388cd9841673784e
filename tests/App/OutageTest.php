<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Payables\StartRun;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\Process\Process;

/** The database goes away under the work. A suite of its own: the other tests keep their connections. */
final class OutageTest extends CommittedCase
{
    /** The database itself is killed in the middle, and started again. */
    public function testAKilledDatabaseKeepsWholeSlices(): void
    {
        $job = self::get(StartRun::class)->start($this->clerk, $this->ready(300));
        $root = new Process([
            'mariadb',
            '--no-defaults',
            '-uroot',
            '-S',
            $this->socket(),
            '-e',
            'SET GLOBAL innodb_flush_log_at_trx_commit = 1',
        ]);
        $root->mustRun();
        $id = (int) file_get_contents(\dirname($this->socket()).'/db.pid');
        // whoever looks after the database would start it again before anybody sees that it is away
        $this->watch(\SIGSTOP);
        $struck = $this->struck($job, 120, static fn (): bool => posix_kill($id, \SIGKILL));
        for ($wait = 0; $wait < 100 && file_exists('/proc/'.$id); ++$wait) {
            usleep(20_000);
        }
        $this->db()->close();
        $answer = (self::$kernel ?? self::bootKernel())->handle(Request::create('/sign-in'));
        self::assertSame(503, $answer->getStatusCode(), 'while it is away a page says so');
        self::assertStringContainsString('The database cannot be reached right now', (string) $answer->getContent());
        (new Process(
            ['bash', \dirname(__DIR__, 2).'/nelbix', 'console', 'nelbix:status', '--env=test'],
            null,
            ['APP_ENV' => 'test'],
            null,
            120,
        ))->mustRun();
        self::assertTrue($struck, 'the worker was at it');
        $this->goesOn($job);
    }

    protected function tearDown(): void
    {
        $this->watch(\SIGCONT);
        parent::tearDown();
    }

    private function watch(int $signal): void
    {
        $watch = (int) @file_get_contents(\dirname($this->socket()).'/watch.pid');
        if ($watch > 0) {
            posix_kill($watch, $signal);
        }
    }

    private function socket(): string
    {
        return (string) ($this->db()->getParams()['unix_socket'] ?? self::fail('The tests run on a socket.'));
    }
}
