<?php

declare(strict_types=1);

/*
 * Measures the application against bare SQL in the same run and prints ratios.
 * Usage: ./nelbix console is not needed; run: php bench/run.php [invoices] [items], on a database of its own (see docs/performance.md).
 */
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Close\AgingQuery;
use Nelbix\App\Documents\InvoiceReader;
use Nelbix\App\Documents\PostInvoice;
use Nelbix\App\Kernel;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Setup\CreateCompany;
use Nelbix\Core\Aging\Bucketing;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

require __DIR__.'/../config/bootstrap.php';
ini_set('memory_limit', '1G');

$invoices = (int) ($argv[1] ?? 2000);
$items = (int) ($argv[2] ?? 100000);
$kernel = new Kernel('test', false);
$kernel->boot();
$container = $kernel->getContainer()->get('test.service_container');
$em = $container->get(EntityManagerInterface::class);
$db = $em->getConnection();
$empty = static function () use ($db): void {
    if (!str_ends_with((string) $db->getDatabase(), '_test')) {
        throw new RuntimeException('The bench empties its database; it runs on the test database only.');
    }
    $db->executeStatement('SET FOREIGN_KEY_CHECKS = 0');
    foreach (array_diff($db->fetchFirstColumn('SHOW TABLES'), ['doctrine_migration_versions']) as $table) {
        $db->executeStatement('TRUNCATE TABLE '.$table);
    }
    $db->executeStatement('SET FOREIGN_KEY_CHECKS = 1');
};
$empty();
$code = 'B'.strtoupper(bin2hex(random_bytes(4)));
$companyId = $container->get(CreateCompany::class)->create($code, 'Bench', 'USD', Day::of('2026-06-15'));
$company = $em->find(Company::class, $companyId);
$company->booksDay = Day::of('2026-06-15');
$em->flush();
$console = $container->get(CreateCompany::class)->consoleUser();
$actor = Actor::of($company, $console);
$parties = [];
foreach ([Side::Payables, Side::Receivables] as $side) {
    for ($n = 1; $n <= 200; ++$n) {
        $parties[$side->value][] = $container->get(SaveParty::class)->save($actor, $side, ['code' => sprintf('P-%04d', $n), 'name' => 'Party '.$n, 'terms' => '2-10-N30', 'default_account' => '5000'])->id();
    }
}
$em->clear();

// 1. posting through the use case
$reader = $container->get(InvoiceReader::class);
$post = $container->get(PostInvoice::class);
$enter = static function (string $prefix) use ($invoices, $post, $reader, $actor, $em): void {
    for ($n = 0; $n < $invoices; ++$n) {
        $post->post($actor, $reader->read($actor, Side::Payables, ['party' => sprintf('P-%04d', $n % 200 + 1), 'number' => $prefix.$n, 'document_date' => '2026-06-01', 'lines' => [['account' => '5000', 'amount' => '100.00', 'tax_code' => 'P8'], ['account' => '5200', 'amount' => '12.50']]], true));
        if (0 === $n % 20) {
            $em->flush();
            $em->clear();
        }
    }
};
$start = hrtime(true);
$enter('N');
$em->clear();
$useCase = (hrtime(true) - $start) / 1e9;

// the same rows, copied by bulk insert, 500 rows a statement, one transaction
$tables = ['document' => 'company_id = '.$companyId, 'document_line' => 'document_id IN (SELECT id FROM document WHERE company_id = '.$companyId.')', 'document_tax' => 'document_id IN (SELECT id FROM document WHERE company_id = '.$companyId.')', 'open_item' => 'company_id = '.$companyId, 'item_discount' => 'item_id IN (SELECT id FROM open_item WHERE company_id = '.$companyId.')', 'journal_entry' => 'company_id = '.$companyId, 'journal_line' => 'entry_id IN (SELECT id FROM journal_entry WHERE company_id = '.$companyId.')', 'history' => 'company_id = '.$companyId];
$rows = 0;
$bulk = 0.0;
foreach ($tables as $table => $where) {
    $data = $db->fetchAllNumeric("SELECT * FROM $table WHERE $where");
    $db->executeStatement("CREATE TABLE bench_copy LIKE $table");
    $rows += count($data);
    $start = hrtime(true);
    $db->beginTransaction();
    foreach (array_chunk($data, 500) as $chunk) {
        $db->executeStatement('INSERT INTO bench_copy VALUES '.implode(',', array_fill(0, count($chunk), '('.implode(',', array_fill(0, count($chunk[0]), '?')).')')), array_merge(...$chunk));
    }
    $db->commit();
    $bulk += (hrtime(true) - $start) / 1e9;
    $db->executeStatement('DROP TABLE bench_copy');
}
printf("posting %d vendor invoices through the use case: %.2f s; bulk insert of the same %d rows: %.2f s; ratio %.1f\n", $invoices, $useCase, $rows, $bulk, $useCase / $bulk);

$start = hrtime(true);
$container->get(Nelbix\App\Platform\Transaction::class)->run(static fn () => $enter('M'));
$em->clear();
printf("the same in one transaction, as an import does: %.2f s; ratio %.1f\n", $together = (hrtime(true) - $start) / 1e9, $together / $bulk);

// 2. aging over many open items
mt_srand(1);
$account = (int) $db->fetchOne("SELECT id FROM account WHERE company_id = ? AND role = 'receivables'", [$companyId]);
$db->executeStatement('SET FOREIGN_KEY_CHECKS = 0');
for ($n = 0; $n < $items; $n += 1000) {
    $values = [];
    for ($k = 0; $k < min(1000, $items - $n); ++$k) {
        $posted = Day::of('2025-06-01')->plusDays(mt_rand(0, 370));
        $amount = mt_rand(0, 19) > 0 ? mt_rand(100, 900000) : -mt_rand(100, 90000);
        $values[] = sprintf("(%d,'receivables',%d,%d,1,'%s','B-%d',%d,'USD',%d,%d,%d,%d,0,0,'%s','%s','%s','%s')", $companyId, $parties['receivables'][mt_rand(0, 199)], 1_000_000 + $n + $k, $amount > 0 ? 'invoice' : 'credit_note', $n + $k, $account, $amount, $amount, $amount, $amount, $posted, $posted, $posted->plusDays(30), $posted);
    }
    $db->executeStatement('INSERT INTO open_item (company_id, side, party_id, document_id, part, kind, number, account_id, currency, original, original_base, open, open_base, discount_base, grace_days, document_date, posting_date, due_date, last_moved_on) VALUES '.implode(',', $values));
}
$db->fetchAllAssociative('ANALYZE TABLE open_item');
$query = $container->get(AgingQuery::class);
$asOf = Day::of('2026-06-15');
$best = static function (callable $run): float {
    $times = [];
    for ($k = 0; $k < 5; ++$k) {
        $start = hrtime(true);
        $run();
        $times[] = (hrtime(true) - $start) / 1e9;
    }

    return min($times);
};
$ours = $best(static fn () => $query->of($companyId, Side::Receivables, $asOf, new Bucketing([30, 60, 90])));
$sql = "SELECT p.code, p.name, SUM(IF(i.open > 0 AND due_date >= '2026-06-15', i.open_base, 0)), SUM(IF(i.open > 0 AND DATEDIFF('2026-06-15', due_date) BETWEEN 1 AND 30, i.open_base, 0)), SUM(IF(i.open > 0 AND DATEDIFF('2026-06-15', due_date) BETWEEN 31 AND 60, i.open_base, 0)), SUM(IF(i.open > 0 AND DATEDIFF('2026-06-15', due_date) BETWEEN 61 AND 90, i.open_base, 0)), SUM(IF(i.open > 0 AND DATEDIFF('2026-06-15', due_date) > 90, i.open_base, 0)), SUM(IF(i.open < 0, i.open_base, 0)), SUM(i.open_base) FROM open_item i JOIN party p ON p.id = i.party_id WHERE i.company_id = ? AND i.side = 'receivables' AND i.open <> 0 AND i.posting_date <= '2026-06-15' GROUP BY p.id, p.code, p.name ORDER BY p.code";
$bare = $best(static fn () => $db->fetchAllNumeric($sql, [$companyId]));
$total = array_sum(array_map(static fn (array $r): int => $r['row']->total(), $query->of($companyId, Side::Receivables, $asOf, new Bucketing([30, 60, 90]))));
$check = array_sum(array_map('intval', array_column($db->fetchAllNumeric($sql, [$companyId]), 8)));
printf("aging over %d items: %.3f s; the one SQL statement: %.3f s; ratio %.2f; same total: %s; peak memory %d MB\n", $items, $ours, $bare, $ours / $bare, $total === $check ? 'yes' : 'NO', memory_get_peak_usage(true) >> 20);
$empty();
