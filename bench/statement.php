<?php

declare(strict_types=1);

/*
 * A statement of 5,000 lines against 50,000 open items of 500 customers: what is found for all of them, against the bare SQL that reads
 * lines, items, discounts and parties: php bench/statement.php. See docs/performance.md.
 */
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Banking\Statement\FindPlaces;
use Nelbix\App\Banking\Statement\TakeStatement;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\StatementLine;
use Nelbix\Core\Placement\Found;

require __DIR__.'/Bench.php';

$bench = new Bench(500);
$db = $bench->db;
mt_srand(20260615);
$customers = $bench->parties['receivables'];
$control = (int) $db->fetchOne("SELECT id FROM account WHERE company_id = ? AND number = '1200'", [$bench->companyId]);
$items = [];
foreach (range(0, 49) as $block) {
    $documents = $opens = $discounts = [];
    foreach (range(1, 1000) as $k) {
        $id = $block * 1000 + $k;
        $number = sprintf('CI-26-%05d', $id);
        $amount = mt_rand(1_000, 900_000);
        $party = $customers[$id % 500];
        $day = Day::of('2026-01-01')->plusDays(mt_rand(0, 150))->iso();
        $items[$id] = [$number, $amount, $id % 500];
        $documents[] =
            "($id, {$bench->companyId}, 'receivables', 'invoice', 'posted', '$number', '$number', '', '', $party, '$day', '$day', '$day', ".
            "'USD', 1, $amount, $amount, $amount, '', '', '', 'none', {$bench->actor->userId}, '$day')";
        $opens[] =
            "($id, {$bench->companyId}, $id, 1, 'receivables', $party, $control, 'invoice', '$number', 'USD', $amount, $amount, $amount, ".
            "$amount, '$day', '$day', '$day', $amount, 0)";
        if (0 === $k % 3) {
            $discounts[] = "($id, '2026-06-20', 2, ".intdiv($amount, 50).')';
        }
    }
    $db->executeStatement('SET foreign_key_checks = 0');
    $mode = (string) $db->fetchOne('SELECT @@sql_mode');
    $db->executeStatement("SET sql_mode = ''");
    $db->executeStatement(
        'INSERT INTO document (id, company_id, side, kind, state, number, live_number, their_number, their_key, party_id, document_date, '.
            'posting_date, due_date, currency, rate, net, total, total_base, description, reference, method, approval, created_by_id, '.
            'created_at) VALUES '.
            implode(',', $documents),
    );
    $db->executeStatement(
        'INSERT INTO open_item (id, company_id, document_id, part, side, party_id, account_id, kind, number, currency, original, '.
            'original_base, open, open_base, document_date, posting_date, due_date, discount_base, grace_days) VALUES '.
            implode(',', $opens),
    );
    $db->executeStatement(
        'INSERT INTO item_discount (item_id, through, percent, amount) VALUES '.implode(',', $discounts),
    );
    $db->executeStatement('SET sql_mode = ?', [$mode]);
}
$db->fetchAllAssociative('ANALYZE TABLE document, open_item, item_discount');
$names = $db->fetchAllKeyValue("SELECT id, name FROM party WHERE side = 'receivables'");
$day = Day::of('2026-06-15');
$lines = [];
foreach (range(1, 5_000) as $k) {
    [$number, $amount, $party] = $items[mt_rand(1, 50_000)];
    $lines[] = match ($k % 4) {
        // by number, by name and amount, by amount alone, and what nobody knows
        0 => new StatementLine($day, $day, $amount, 'payment of '.$number, bankReference: 'B'.$k),
        1 => new StatementLine(
            $day,
            $day,
            $amount,
            'thank you',
            bankReference: 'B'.$k,
            party: (string) $names[$customers[$party]],
        ),
        2 => new StatementLine($day, $day, $amount, 'transfer '.$k, bankReference: 'B'.$k),
        default => new StatementLine($day, $day, mt_rand(1_000, 900_000), 'unknown', bankReference: 'B'.$k),
    };
}
$sum = array_sum(array_map(static fn (StatementLine $l): int => $l->amount, $lines));
$bank = $bench->get(BankAccounts::class)->named($bench->companyId, '1000');
$taken = Bench::time(
    static fn () => $bench
        ->get(TakeStatement::class)
        ->take(
            $bench->actor,
            $bank->id,
            new BankStatement('1', '', 'USD', $day, $day, 0, $sum, $lines),
            'hand',
            'bench',
        ),
);
$bareTaken = $bench->copied(['statement_line' => '1 = 1']);
Bench::say('taking in a statement of 5,000 lines', $taken, 'bulk-inserting them', $bareTaken['seconds']);

$find = $bench->get(FindPlaces::class);
$found = [];
$ours = Bench::best(static function () use ($find, $bank, $bench, &$found): void {
    $found = $find->of($bank, $bench->companyId);
}, 2);
$bare = Bench::best(static function () use ($db, $bench): void {
    foreach (
        [
            'SELECT * FROM statement_line WHERE company_id = ? AND waiting <> 0',
            'SELECT i.*, d.their_number, d.reference FROM open_item i JOIN document d ON d.id = i.document_id '.
            'WHERE i.company_id = ? AND i.is_open = 1',
            'SELECT x.* FROM item_discount x JOIN open_item i ON i.id = x.item_id WHERE i.company_id = ?',
            'SELECT * FROM party WHERE company_id = ?',
        ] as $sql
    ) {
        foreach ($db->iterateNumeric($sql, [$bench->companyId]) as $row) {
            // it is read
        }
    }
}, 3);
Bench::say('what is found for 5,000 lines among 50,000 items', $ours, 'the bare SQL that reads them', $bare);
printf(
    "%d have a find, %d are sure; %d MB\n",
    count(array_filter($found, static fn (Found $f): bool => [] !== $f->finds)),
    count(array_filter($found, static fn (Found $f): bool => $f->sure)),
    memory_get_peak_usage() >> 20,
);
$bench->clear();
