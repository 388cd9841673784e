<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use DAMA\DoctrineTestBundle\Doctrine\DBAL\StaticDriver;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\Process\Process;

/** Tests of several processes: what they write is committed, so that each sees the others', and emptied afterwards. */
abstract class CommittedCase extends AppCase
{
    protected const BEGINS_WITH_A_COMPANY = false;

    protected function setUp(): void
    {
        StaticDriver::setKeepStaticConnections(false);
        $this->code = 'C'.strtoupper(bin2hex(random_bytes(4)));
        parent::setUp();
    }

    protected function tearDown(): void
    {
        parent::tearDown();
        self::bootKernel();
        self::emptyAll();
        self::ensureKernelShutdown();
        StaticDriver::setKeepStaticConnections(true);
    }

    /**
     * Two processes, or more, that do something at the same moment.
     *
     * @param string|list<string> $what one for all of them, or one for each
     * @param list<int> ...$calls arguments of each process
     *
     * @return list<string> what each said
     */
    protected function together(string|array $what, array ...$calls): array
    {
        $moment = (string) (microtime(true) + 1.2);
        $processes = array_map(
            fn (array $arguments, int|string $k): Process => new Process(
                [
                    \PHP_BINARY,
                    __DIR__.'/concurrent.php',
                    \is_array($what) ? $what[(int) $k] : $what,
                    (string) $this->clerk->companyId,
                    (string) $this->clerk->userId,
                    $moment,
                    ...array_map('strval', $arguments),
                ],
                null,
                ['APP_ENV' => 'test'],
            ),
            $calls,
            array_keys($calls),
        );
        foreach ($processes as $process) {
            $process->start();
        }
        $said = [];
        foreach ($processes as $process) {
            $process->wait();
            self::assertSame('', $process->getErrorOutput());
            $said[] = $process->getOutput();
        }
        sort($said);

        return $said;
    }

    protected function bank(): int
    {
        return (int) $this->db()->fetchOne('SELECT id FROM bank_account WHERE company_id = ?', [
            $this->clerk->companyId,
        ]);
    }

    /** @return int a run of so many checks, printed and ready to post */
    protected function ready(int $payments): int
    {
        $this->db()->executeStatement("UPDATE party SET separate_payments = 1 WHERE company_id = ? AND code = 'V-1'", [
            $this->clerk->companyId,
        ]);
        for ($n = 0; $n < $payments; ++$n) {
            $this->invoice(Side::Payables, '10.00', [
                'document_date' => '2026-04-01',
                'terms' => 'N30',
                'number' => 'RUN-'.$n.'-'.bin2hex(random_bytes(3)),
            ]);
        }

        return $this->printedRun();
    }

    protected function payments(): int
    {
        return (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE company_id = ? AND kind = 'payment'", [
            $this->clerk->companyId,
        ]);
    }

    /** A worker on the job, struck after so many milliseconds; whether it was still at it then. */
    protected function struck(int $job, int $milliseconds, callable $strike): bool
    {
        $process = new Process(
            [
                \PHP_BINARY,
                __DIR__.'/concurrent.php',
                'work',
                (string) $this->clerk->companyId,
                (string) $this->clerk->userId,
                '0',
                (string) $job,
            ],
            null,
            ['APP_ENV' => 'test'],
        );
        $process->start();
        $process->waitUntil(static fn (string $type, string $out): bool => str_contains($out, 'posting'));
        usleep($milliseconds * 1000);
        $running = $process->isRunning();
        $strike($process);
        $process->wait();

        return $running;
    }

    /** After the blow whole slices stand; gone on with, all 300 are posted once, with no gap in the numbers. */
    protected function goesOn(int $job): void
    {
        self::assertSame(0, $this->payments() % (int) self::getContainer()->getParameter('nelbix.run_slice'));
        self::assertSame(
            ['done', 300],
            [($ended = self::get(Worker::class)->finish($job))->state->value, $ended->done],
        );
        self::assertSame(300, $this->payments());
        self::assertSame(
            range(1, 300),
            array_map(
                static fn (string $n): int => (int) substr($n, 6),
                $this->db()->fetchFirstColumn(
                    "SELECT number FROM document WHERE company_id = ? AND kind = 'payment' ORDER BY number",
                    [$this->clerk->companyId],
                ),
            ),
        );
        self::assertSame(
            300,
            (int) $this->db()->fetchOne(
                <<<SQL
                SELECT COUNT(DISTINCT k.number)
                FROM bank_check k
                JOIN document d ON d.id = k.document_id
                WHERE d.company_id = ? AND k.state = 'issued'
                SQL
                ,
                [$this->clerk->companyId],
            ),
        );
        self::assertSame(
            [0, 'posted'],
            [
                (int) $this->db()->fetchOne(
                    'SELECT COUNT(*) FROM open_item WHERE company_id = ? AND (open <> 0 OR reserved_by_id IS NOT NULL)',
                    [$this->clerk->companyId],
                ),
                $this->db()->fetchOne('SELECT state FROM proposal WHERE company_id = ?', [$this->clerk->companyId]),
            ],
        );
    }
}
