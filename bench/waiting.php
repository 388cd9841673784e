<?php

declare(strict_types=1);

/*
 * How long clerks wait who post while a long file is checked: php bench/waiting.php [lines] [clerks]. See docs/performance.md.
 * Each clerk is a process of its own that posts an invoice, looks at the clock, and rests a moment.
 */
use Nelbix\App\Import\ImportFile;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Kernel;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\Process\Process;

require __DIR__.'/Bench.php';

if ('clerk' === ($argv[1] ?? '')) {
    [, , $name, $company, $user] = $argv;
    $kernel = new Kernel('test', false);
    $kernel->boot();
    $container = $kernel->getContainer()->get('test.service_container');
    assert($container instanceof Psr\Container\ContainerInterface);
    $actor = new Actor((int) $company, 'USD', (int) $user);
    $longest = 0.0;
    // until the file beside is checked
    for ($n = 0; !is_file((string) getenv('NELBIX_BENCH_DONE')); ++$n) {
        $longest = max(
            $longest,
            Bench::time(static function () use ($container, $actor, $name, $n): void {
                $input = $container->get(InvoiceReader::class)->read(
                    $actor,
                    Side::Payables,
                    [
                        'party' => sprintf('P-%04d', ($n % 200) + 1),
                        'number' => $name.'-'.$n,
                        'document_date' => '2026-06-01',
                        'lines' => [['account' => '5000', 'amount' => '100.00', 'tax_code' => 'P8']],
                    ],
                    true,
                );
                $container->get(PostInvoice::class)->post($actor, $input);
            }),
        );
        usleep(200_000);
    }
    printf("%d %.3f\n", $n, $longest);
    exit;
}

$lines = (int) ($argv[1] ?? 8000);
$clerks = (int) ($argv[2] ?? 10);
$bench = new Bench();
$done = sys_get_temp_dir().'/nelbix-bench-'.getmypid();
$processes = array_map(
    static fn (int $k): Process => new Process(
        [\PHP_BINARY, __FILE__, 'clerk', 'K'.$k, (string) $bench->companyId, (string) $bench->actor->userId],
        null,
        ['NELBIX_BENCH_DONE' => $done],
        null,
        600,
    ),
    range(1, $clerks),
);
array_map(static fn (Process $p) => $p->start(), $processes);
sleep(2);
$csv = "party,number,document_date,account,amount,tax_code,look_alike_reason\n";
for ($n = 0; $n < $lines; ++$n) {
    $csv .= sprintf("P-%04d,W%d,2026-06-01,5000,%d.00,P8,bench\n", ($n % 200) + 1, $n, ($n % 900) + 1);
}
$seconds = Bench::time(static function () use ($bench, $csv, $lines): void {
    $result = $bench->get(ImportFile::class)->import($bench->actor, 'vendor-invoices', $csv, true);
    if ($lines !== $result['created']) {
        throw new RuntimeException(
            'The file was not taken: '.implode(' ', array_column($result['errors'], 'message')),
        );
    }
});
touch($done);
$posted = 0;
$longest = 0.0;
foreach ($processes as $process) {
    $process->wait();
    [$n, $waited] = explode(' ', trim($process->getOutput())) + ['0', '999'];
    $posted += (int) $n;
    $longest = max($longest, (float) $waited);
}
unlink($done);
printf(
    "%d lines checked in %.1f s while %d clerks posted %d invoices; the longest took %.2f s\n",
    $lines,
    $seconds,
    $clerks,
    $posted,
    $longest,
);
$bench->clear();
