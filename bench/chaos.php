<?php

declare(strict_types=1);

/*
 * Eight clerks at random while workers, clerks and the database are killed at random points; after each round the books, the seal and the
 * tie-out hold, everything that was answered "posted" is there, and nothing is there twice.
 *
 * php bench/chaos.php [rounds] [seconds a round] [seed]; needs the test database, whose folder NELBIX_DATA names, and empties it.
 */
use Nelbix\App\Close\Seal\SealPosted;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Close\Verify;
use Nelbix\App\People\Membership;
use Nelbix\App\People\Role;
use Nelbix\App\People\User;
use Nelbix\App\Platform\Company;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Calendar\Day;
use Symfony\Component\Process\Process;

require __DIR__.'/Bench.php';

$rounds = (int) ($argv[1] ?? 50);
$seconds = (int) ($argv[2] ?? 600);
$seed = (int) ($argv[3] ?? 1);
mt_srand($seed);
$bench = new Bench(20);
$company = $bench->em->find(Company::class, $bench->companyId) ?? throw new LogicException();
$users = [];
for ($n = 0; $n < 9; ++$n) {
    $user = new User('clerk'.$n, 'Clerk '.$n);
    $user->passwordHash = 'x';
    $bench->em->persist($user);
    $bench->em->persist(new Membership($user, $company, 8 === $n ? Role::Approver : Role::Controller));
    $users[] = $user;
}
$bench->em->flush();
$ids = array_map(static fn (User $u): int => $u->id(), $users);
$companyId = $bench->companyId;
$folder = sys_get_temp_dir().'/nelbix-chaos-'.getmypid();
mkdir($folder, 0700);
$socket = (string) ($bench->db->getParams()['unix_socket'] ?? '');
$pidFile = dirname($socket).'/db.pid';
(new Process([
    'mariadb',
    '--no-defaults',
    '-uroot',
    '-S',
    $socket,
    '-e',
    'SET GLOBAL innodb_flush_log_at_trx_commit = 1',
]))->mustRun();
$bench->db->close();

$clerk = static function (int $n, float $until) use ($companyId, $ids, $folder): Process {
    $process = new Process([
        \PHP_BINARY,
        __DIR__.'/clerk.php',
        (string) $companyId,
        (string) $ids[$n],
        (string) $ids[8],
        (string) $until,
        "$folder/clerk$n",
        (string) mt_rand(),
    ]);
    $process->setTimeout(null);
    $process->start();

    return $process;
};
$worker = static function (): Process {
    $process = new Process([\PHP_BINARY, __DIR__.'/../bin/console', 'nelbix:work', '--stay', '--env=test']);
    $process->setTimeout(null);
    $process->start();

    return $process;
};
$database = static function () use ($socket): void {
    $start = new Process(['bash', __DIR__.'/../nelbix', 'database'], null, [
        'NELBIX_DB_FLUSH' => '1',
        'APP_ENV' => false,
        'DATABASE_URL' => false,
    ]);
    $start->setTimeout(120);
    $start->run();
    if (!$start->isSuccessful() || !file_exists($socket)) {
        throw new RuntimeException($start->getOutput().$start->getErrorOutput());
    }
};
$fail = static function (string $what): never {
    fwrite(\STDERR, "FAILED: $what\n");
    exit(1);
};

for ($round = 1; $round <= $rounds; ++$round) {
    $until = microtime(true) + $seconds;
    $clerks = $workers = [];
    for ($n = 0; $n < 8; ++$n) {
        $clerks[$n] = $clerk($n, $until);
    }
    $workers = [$worker(), $worker()];
    $kills = ['clerk' => 0, 'worker' => 0, 'database' => 0];
    $nextKill = microtime(true) + mt_rand(500, 2_500) / 1000;
    $nextDatabase = microtime(true) + mt_rand(3_000, max(4_000, $seconds * 700)) / 1000;
    while (microtime(true) < $until) {
        usleep(50_000);
        if (microtime(true) > $nextKill) {
            $victims = [...array_values($clerks), ...$workers];
            $at = mt_rand(0, count($victims) - 1);
            if ($victims[$at]->isRunning()) {
                $victims[$at]->signal(\SIGKILL);
                ++$kills[$at < 8 ? 'clerk' : 'worker'];
            }
            $nextKill = microtime(true) + mt_rand(500, 2_500) / 1000;
        }
        // while it starts its file is not there or empty, and a signal to process 0 would strike this whole group
        $its = is_file($pidFile) ? (int) file_get_contents($pidFile) : 0;
        if (microtime(true) > $nextDatabase && $its > 1) {
            posix_kill($its, \SIGKILL);
            ++$kills['database'];
            usleep(mt_rand(50, 600) * 1000);
            @unlink($pidFile);
            $database();
            $nextDatabase = microtime(true) + mt_rand(4_000, max(5_000, $seconds * 500)) / 1000;
        }
        foreach ($clerks as $n => $process) {
            if (!$process->isRunning() && microtime(true) < $until) {
                $clerks[$n] = $clerk($n, $until);
            }
        }
        foreach ($workers as $n => $process) {
            $workers[$n] = $process->isRunning() ? $process : $worker();
        }
    }
    foreach ($clerks as $process) {
        $process->wait();
    }
    // what has no answer is sent again, once more
    foreach (array_keys($clerks) as $n) {
        $clerk($n, 0.0)->wait();
    }
    foreach ($workers as $process) {
        $process->stop(10, \SIGTERM);
    }

    $worked = $bench->get(Worker::class);
    while ($worked->next()) {
    }
    while ($bench->get(SealPosted::class)->company($companyId)) {
    }
    foreach ($bench->get(Verify::class)->of($companyId) as $check => $findings) {
        [] === $findings || $fail("round $round, check $check: ".implode('; ', array_slice($findings, 0, 3)));
    }
    foreach ($bench->get(TieOutQuery::class)->of($companyId, Day::of('2026-12-31')) as $row) {
        0 === $row['tie']->difference() || $fail("round $round: {$row['name']} does not tie");
    }
    $answered = $refused = 0;
    for ($n = 0; $n < 8; ++$n) {
        $sent = [];
        foreach (is_file("$folder/clerk$n") ? (file("$folder/clerk$n", \FILE_IGNORE_NEW_LINES) ?: []) : [] as $line) {
            [$word, $key, $what] = [...explode(' ', $line, 3), '', ''];
            if ('send' === $word) {
                $sent[$key] = json_decode($what, true);
                continue;
            }
            $refused += 'refused' === $word ? 1 : 0;
            if ('done' === $word) {
                ++$answered;
                $is = $bench->db->fetchOne("SELECT 1 FROM document WHERE id = ? AND state <> 'draft'", [(int) $what]);
                false !== $is || $fail("round $round: $key was answered with document $what, which is not there");
            }
            unset($sent[$key]);
        }[] === $sent || $fail("round $round: nothing was answered to ".array_key_first($sent));
    }
    $double = $bench->db->fetchOne(
        <<<'SQL'
        SELECT reference FROM document WHERE company_id = ? AND kind IN ('payment', 'receipt') AND reference <> '' AND proposal_id IS NULL
            AND reverses_id IS NULL
        GROUP BY reference HAVING COUNT(*) > 1
        UNION ALL
        SELECT their_number FROM document WHERE company_id = ? AND side = 'payables' AND their_number <> '' AND reverses_id IS NULL
        GROUP BY their_number HAVING COUNT(*) > 1
        LIMIT 1
        SQL
        ,
        [$companyId, $companyId],
    );
    false === $double || $fail("round $round: $double is there twice");
    printf(
        "round %d: %d posted, %d refused, killed %d clerks, %d workers, the database %d times; books, seal and tie-out hold\n",
        $round,
        $answered,
        $refused,
        ...array_values($kills),
    );
    $bench->db->close();
    array_map('unlink', glob("$folder/clerk*") ?: []);
}
rmdir($folder);
$bench->clear();
