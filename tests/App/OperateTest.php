<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\DBAL\Configuration;
use Doctrine\DBAL\DriverManager;
use Monolog\Handler\TestHandler;
use Monolog\Logger;
use Nelbix\App\Close\Seal\SealPosted;
use Nelbix\App\Platform\Operate\SlowQueries;
use Nelbix\App\Work\ForgetOld;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\Filesystem\Filesystem;
use Symfony\Component\Process\Process;

/** What an operator asks: is this server well, what has it counted, what took long. */
final class OperateTest extends ScreenCase
{
    private function job(string $state, int $minutesAgo): void
    {
        $this->db()->insert('job', [
            'company_id' => $this->clerk->companyId,
            'user_id' => $this->clerk->userId,
            'kind' => 'run',
            'subject_id' => 1,
            'title' => 'a run',
            'state' => $state,
            'total' => 4,
            'standing' => $state.$minutesAgo,
            'created_at' => date('Y-m-d H:i:s', time() - 60 * $minutesAgo),
        ]);
    }

    public function testHealthNeedsNobodyAndSaysNoSecret(): void
    {
        $this->browser->request('GET', '/health');
        self::assertSame(200, $this->browser->getResponse()->getStatusCode());
        self::assertSame('{"status":"ok","database":"ok"}', $this->browser->getResponse()->getContent());
        self::assertSame([], $this->browser->getResponse()->headers->getCookies(), 'no session is begun');
        self::assertStringContainsString(
            'no-store',
            (string) $this->browser->getResponse()->headers->get('Cache-Control'),
        );
    }

    public function testCountersAreForThisMachineAlone(): void
    {
        $this->invoice(Side::Payables, '100.00');
        $this->invoice(Side::Payables, '110.00');
        $this->job('waiting', 5);
        $this->job('running', 2);
        $this->browser->request('GET', '/metrics');
        $said = (string) $this->browser->getResponse()->getContent();
        self::assertSame(200, $this->browser->getResponse()->getStatusCode(), $said);
        foreach (
            [
                '/^# TYPE nelbix_numbers_given_total counter$/m',
                '/^nelbix_numbers_given_total\{company="TEST",series="VI"\} 2$/m',
                '/^nelbix_jobs\{state="waiting"\} 1$/m',
                '/^nelbix_job_oldest_seconds 30[0-9]$/m',
            ] as $line
        ) {
            self::assertMatchesRegularExpression($line, $said);
        }
        // each family is said once, before its samples
        preg_match_all('/^# TYPE (\S+)/m', $said, $m);
        self::assertSame($m[1], array_unique($m[1]));
        $this->browser->request('GET', '/metrics', [], [], ['REMOTE_ADDR' => '203.0.113.7']);
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
        $this->browser->request(
            'GET',
            '/metrics',
            [],
            [],
            [
                'REMOTE_ADDR' => '203.0.113.7',
                'HTTP_X_FORWARDED_FOR' => '127.0.0.1',
            ],
        );
        self::assertSame(404, $this->browser->getResponse()->getStatusCode(), 'no header opens it');
    }

    public function testTheQueueStandsOnTodayForAController(): void
    {
        $this->job('waiting', 9);
        $this->job('running', 3);
        foreach (['controller' => 1, 'payables' => 0] as $role => $lines) {
            $this->as($role);
            self::assertSame(
                $lines,
                substr_count($this->page('/TEST')->text(), 'long jobs are not through, the oldest for 9 min'),
                $role,
            );
        }
    }

    public function testAStatementThatTakesLongIsWrittenDownWithoutItsValues(): void
    {
        $log = new TestHandler();
        $configuration = new Configuration();
        $configuration->setMiddlewares([new SlowQueries(new Logger('slow', [$log]), 30)]);
        $db = DriverManager::getConnection($this->db()->getParams(), $configuration);
        $db->fetchOne("SELECT 'quick'");
        self::assertFalse($log->hasWarningRecords());
        $db->fetchOne("SELECT SLEEP(0.05), 'secret', ?", ['hidden']);
        $db->executeQuery("SELECT SLEEP(0.05) FROM DUAL WHERE 'it''s' = 'it\\'s'");
        $records = $log->getRecords();
        self::assertCount(2, $records);
        self::assertSame("SELECT SLEEP(0.05), '…', ?", $records[0]->context['sql']);
        self::assertStringNotContainsString('it', (string) $records[1]->context['sql']);
        self::assertMatchesRegularExpression('/^\d+ ms$/', $records[0]->message);
        $db->close();
    }

    /** No log may fail what it logs: here none of them can be written, and every statement is slow. */
    public function testALogThatCannotBeWrittenEndsNothing(): void
    {
        $folder = sys_get_temp_dir().'/nelbix-log-'.bin2hex(random_bytes(4));
        foreach (['', '/slow.log', '/test.log', '/prod.log'] as $taken) {
            mkdir($folder.$taken, 0777);
            chmod($folder.$taken, 0777);
        }
        $status = new Process([\PHP_BINARY, \dirname(__DIR__, 2).'/bin/console', 'nelbix:status'], null, [
            'NELBIX_LOG' => $folder,
            'NELBIX_CACHE' => $folder.'/cache',
            'NELBIX_SLOW_MS' => '-1',
            'APP_ENV' => 'test',
        ]);
        $status->run();
        (new Filesystem())->remove($folder);
        self::assertSame(0, $status->getExitCode(), $status->getErrorOutput());
    }

    /** Whoever runs the console, what it leaves belongs to the user who owns the data and runs the application. */
    public function testWhatTheConsoleWritesBelongsToWhoeverOwnsTheData(): void
    {
        $data = (string) getenv('NELBIX_DATA');
        $folder = $data.'/log/'.bin2hex(random_bytes(4));
        mkdir($folder);
        chown($folder, (int) fileowner($data));
        (new Process([\PHP_BINARY, \dirname(__DIR__, 2).'/bin/console', 'nelbix:status'], null, [
            'NELBIX_LOG' => $folder,
            'NELBIX_CACHE' => $folder.'/cache',
            'NELBIX_SLOW_MS' => '-1',
            'APP_ENV' => 'test',
        ]))->mustRun();
        $owner = fileowner($folder.'/slow.log');
        (new Filesystem())->remove($folder);
        self::assertSame(fileowner($data), $owner);
    }

    /** What is old by rule goes, what is younger stays, and whatever is sealed stays whole. */
    public function testWhatGrowsForEverIsForgottenByRule(): void
    {
        $id = $this->invoice(Side::Payables, '100.00');
        while (self::get(SealPosted::class)->do()) {
            continue;
        }
        $ago = static fn (int $days): string => date('Y-m-d H:i:s', time() - 86400 * $days);
        $user = $this->clerk->userId;
        $company = $this->clerk->companyId;
        foreach ([401 => 'old', 399 => 'young'] as $days => $title) {
            $this->job('done', 60 * 24 * $days);
            $this->db()->executeStatement(
                'UPDATE job SET ended_at = ?, standing = NULL, title = ? WHERE standing IS NOT NULL',
                [$ago($days), $title],
            );
        }
        foreach ([91, 89] as $days) {
            $this->db()->executeStatement(
                "INSERT INTO done_once (company_id, user_id, what, form_key, content, made_at) VALUES (?, ?, 'old', ?, 'x', ?)",
                [$company, $user, 'k'.$days, $ago($days)],
            );
        }
        foreach ([1101, 1099] as $days) {
            $this->db()->executeStatement(
                "INSERT INTO sign_in (user_id, name, at, what, address, agent) VALUES (?, 'x', ?, ?, '', '')",
                [$user, $ago($days), 'old '.$days],
            );
        }
        foreach ([-2 => 'over', 1 => 'on'] as $days => $session) {
            $this->db()->executeStatement("INSERT INTO sessions VALUES (?, '', ?, ?)", [
                $session,
                time() + 86400 * $days,
                time(),
            ]);
        }
        self::get(ForgetOld::class)->do();
        self::assertSame(
            [['young'], ['k89'], ['old 1099'], ['on']],
            [
                $this->db()->fetchFirstColumn("SELECT title FROM job WHERE title IN ('old', 'young')"),
                $this->db()->fetchFirstColumn("SELECT form_key FROM done_once WHERE what = 'old'"),
                $this->db()->fetchFirstColumn("SELECT what FROM sign_in WHERE what LIKE 'old %'"),
                $this->db()->fetchFirstColumn("SELECT sess_id FROM sessions WHERE sess_id IN ('over', 'on')"),
            ],
        );
        self::assertGreaterThan(
            0,
            (int) $this->db()->fetchOne("SELECT COUNT(*) FROM history WHERE subject = 'document' AND subject_id = ?", [
                $id,
            ]),
        );
        self::assertFalse(self::get(ForgetOld::class)->do(), 'it does not look again at once');
    }
}
