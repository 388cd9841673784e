<?php

declare(strict_types=1);

/*
 * A group of ten companies: php bench/group.php make [documents] makes it, php bench/group.php measure [file] looks at it, and keeps
 * what it took as JSON; php bench/group.php seal G01 seals what a company has posted. See docs/performance.md.
 */
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Banking\Statement\FindPlaces;
use Nelbix\App\Banking\Statement\TakeStatement;
use Nelbix\App\Close\Audit\AuditXml;
use Nelbix\App\Close\Seal\SealPosted;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\StatementLine;
use Nelbix\Core\Proposal\Criteria;

require __DIR__.'/Bench.php';
require __DIR__.'/Group.php';

if ('seal' === ($argv[1] ?? '')) {
    // a company a process, to be run beside each other
    $bench = new Bench(0, $argv[2]);
    $seconds = Bench::time(static function () use ($bench): void {
        while ($bench->get(SealPosted::class)->company($bench->companyId)) {
        }
    });
    exit(sprintf("%s sealed in %.0f s\n", $argv[2], $seconds));
}
if ('measure' !== ($argv[1] ?? 'make')) {
    $documents = (int) ($argv[2] ?? 10_000);
    $bench = new Bench(0);
    $tell = static function (string $line): void {
        fwrite(STDERR, $line."\n");
    };
    $seconds = Bench::time(static fn () => (new Group($bench))->make($documents, $tell));
    $made = (int) $bench->db->fetchOne('SELECT COUNT(*) FROM document');
    exit(sprintf("%d documents made in %.0f s\n", $made, $seconds));
}

$took = [];
$keep = static function (string $what, float $seconds, int $queries = 0, int $megabytes = 0) use (&$took): void {
    $took[$what] = ['seconds' => round($seconds, 4), 'queries' => $queries, 'megabytes' => $megabytes];
    printf("%-60s %9.3f s %3d queries %4d MB\n", $what, $seconds, $queries, $megabytes);
};
$place = static fn (int|string ...$values): string => rtrim(
    strtr(base64_encode(json_encode(array_values($values), JSON_THROW_ON_ERROR)), '+/', '-_'),
    '=',
);

// one company of ten
$bench = new Bench(0, 'G01');
[$db, $c] = [$bench->db, $bench->companyId];
$one = static fn (string $sql): string => (string) $db->fetchOne($sql, [$c]);
$low = (int) $one('SELECT MIN(id) FROM document WHERE company_id = ?');
$due = $db->fetchNumeric(
    "SELECT due_date, id FROM open_item WHERE company_id = ? AND side = 'payables' AND is_open = 1 ".
        'ORDER BY due_date DESC, id DESC LIMIT 20, 1',
    [$c],
) ?: ['2026-06-15', 1];
$party = $one("SELECT id FROM party WHERE company_id = ? AND side = 'payables' AND code = 'V-00007'");
$account = $one("SELECT id FROM account WHERE company_id = ? AND role = 'payables'");
$number = $one(
    "SELECT number FROM document WHERE company_id = ? AND kind = 'invoice' AND state = 'posted' ORDER BY id LIMIT 5, 1",
);
foreach (
    [
        'an empty page' => '/health',
        'today' => '/G01',
        'documents, first page' => '/G01/payables/documents?state=all',
        'documents, last page' => '/G01/payables/documents?state=all&after='.$place($low + 60),
        'documents of a vendor' => '/G01/payables/documents?state=all&party=V-00007',
        'open items, first page' => '/G01/payables/items',
        'open items, last page' => '/G01/payables/items?after='.$place((string) $due[0], (int) $due[1]),
        'vendors, first page' => '/G01/payables/parties',
        'a vendor' => '/G01/payables/party/'.$party,
        'search for a number' => '/G01/search?q='.$number,
        'search for a word' => '/G01/search?q=varnish',
        'what is due' => '/G01/payables/due/overdue',
        'aging as of a past day' => '/G01/receivables/aging?as_of=2025-12-31',
        'documents of the aging' => '/G01/receivables/aging/items?as_of=2025-12-31',
        'tie-out with its break day' => '/G01/close/tie-out',
        'card of the control account, first page' => '/G01/close/account/'.$account,
        'trial balance' => '/G01/close/trial-balance',
        'close of a period' => '/G01/close',
        'history' => '/G01/close/history',
        'outlook' => '/G01/bank/outlook',
    ] as $what => $path
) {
    $look = $bench->look($path);
    $keep($what, $look['seconds'], $look['queries'], $look['megabytes']);
}

// a statement of so many lines, a sixth of the open items of customers among them
$bank = $bench->get(BankAccounts::class)->named($c, '1000');
$day = Day::of('2026-06-15');
$open = $db->fetchAllNumeric(
    "SELECT number, open FROM open_item WHERE company_id = ? AND side = 'receivables' AND is_open = 1 AND open > 0 ".
        "AND currency = 'USD' LIMIT 2500",
    [$c],
);
$lines = [];
foreach (range(1, min(5000, 2 * count($open))) as $k) {
    [$its, $amount] = $open[intdiv($k, 2) % count($open)];
    $lines[] =
        0 === $k % 2
            ? new StatementLine($day, $day, (int) $amount, 'payment of '.$its, bankReference: 'B'.$k)
            : new StatementLine($day, $day, 1000 + ((7919 * $k) % 900_000), 'transfer '.$k, bankReference: 'B'.$k);
}
$sum = array_sum(array_map(static fn (StatementLine $l): int => $l->amount, $lines));
$db->executeStatement('DELETE FROM statement_line WHERE company_id = ?', [$c]);
$db->executeStatement('DELETE FROM bank_statement WHERE company_id = ?', [$c]);
$keep(
    sprintf('a statement of %d lines taken in', count($lines)),
    Bench::time(
        static fn () => $bench
            ->get(TakeStatement::class)
            ->take(
                $bench->actor,
                $bank->id,
                new BankStatement('1', '', 'USD', $day, $day, 0, $sum, $lines),
                'hand',
                'bench',
            ),
    ),
);
memory_reset_peak_usage();
$before = memory_get_usage();
$keep(
    'what its lines may be',
    Bench::time(static fn () => $bench->get(FindPlaces::class)->of($bank, $c)),
    0,
    (memory_get_peak_usage() - $before) >> 20,
);

// the audit file of all its days
$bench->em->clear();
$company = $bench->em->find(Company::class, $c) ?? throw new LogicException();
memory_reset_peak_usage();
$before = memory_get_usage();
$keep(
    'audit file of '.
        $one('SELECT COUNT(*) FROM journal_line l JOIN journal_entry e ON e.id = l.entry_id WHERE e.company_id = ?').
        ' lines',
    Bench::time(
        static fn () => $bench
            ->get(AuditXml::class)
            ->write($company, Day::of('2025-01-01'), $day, static fn (string $part): null => null),
    ),
    0,
    (memory_get_peak_usage() - $before) >> 20,
);

// the company whose vendors wait for their money
$heavy = new Bench(0, sprintf('G%02d', Group::COMPANIES));
$items = (int) $heavy->db->fetchOne(
    "SELECT COUNT(*) FROM open_item WHERE company_id = ? AND side = 'payables' AND open > 0 AND due_date <= '2026-06-22'",
    [$heavy->companyId],
);
$account = (int) $heavy->db->fetchOne('SELECT MIN(id) FROM bank_account WHERE company_id = ?', [$heavy->companyId]);
memory_reset_peak_usage();
$before = memory_get_usage();
$id = 0;
$keep(
    sprintf('a proposal of %d due items made', $items),
    Bench::time(static function () use ($heavy, $account, $day, &$id): void {
        $criteria = new Criteria($day, $day, $day->plusDays(7), 'USD', [], ['check', 'transfer']);
        $id = $heavy->get(MakeProposal::class)->make($heavy->actor, $criteria, $account, 'bench');
    }),
    0,
    (memory_get_peak_usage() - $before) >> 20,
);
$heavy->em->clear();
$look = $heavy->look(sprintf('/G%02d/payables/proposal/%d', Group::COMPANIES, $id));
$keep('its review', $look['seconds'], $look['queries'], $look['megabytes']);
if (isset($argv[2])) {
    file_put_contents($argv[2], json_encode($took, JSON_THROW_ON_ERROR | JSON_PRETTY_PRINT)."\n");
}
