<?php

declare(strict_types=1);

/*
 * Money in over 50,000 open items of 2,000 customers: proposing where 5,000 receipts go, and statements of account for all customers,
 * each against the bare SQL that reads the same rows: php bench/money_in.php. See docs/performance.md.
 */
use Nelbix\App\Books\DiscountSteps;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Books\StoredItem;
use Nelbix\App\Receivables\AccountStatement;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Placement\Placer;

require __DIR__.'/Bench.php';

$bench = new Bench(2000);
$customers = $bench->parties['receivables'];
mt_srand(20260615);
$n = 0;
$bench->items(50_000, static function () use (&$n, $customers): array {
    $posted = Day::of('2026-03-01')->plusDays(mt_rand(0, 100));

    return [
        'side' => Side::Receivables,
        'party' => $customers[$n++ % 2000],
        'posted' => $posted,
        'due' => $posted->plusDays(30),
        'amount' => mt_rand(0, 19) > 0 ? mt_rand(1_000, 900_000) : -mt_rand(1_000, 90_000),
    ];
});
$day = Day::of('2026-06-15');
$items = $bench->get(OpenItemsQuery::class);
$steps = $bench->get(DiscountSteps::class);

// 5,000 receipts: two or three for each customer, of one item, of two, or of nothing that is owed
$found = 0;
$propose = static function () use ($bench, $customers, $items, $steps, $day, &$found): void {
    $found = 0;
    for ($k = 0; $k < 5000; ++$k) {
        $rows = $items->ofParty($bench->companyId, Side::Receivables, $customers[$k % 2000], $day);
        $discounts = $steps->open($bench->companyId, Side::Receivables, array_column($rows, 'id'));
        $core = array_map(
            static fn (array $r) => StoredItem::of($r, Side::Receivables, $discounts[$r['id']] ?? null),
            $rows,
        );
        $owed = array_values(array_filter($core, static fn ($i): bool => $i->open > 0));
        $amount = [$owed[0]->open, $owed[0]->open + $owed[1]->open, 123][$k % 3];
        $found += [] === Placer::ideas($amount, '', $core, $day) ? 0 : 1;
    }
};
$bareItems = static function () use ($bench, $customers): void {
    for ($k = 0; $k < 5000; ++$k) {
        $bench->db->fetchAllNumeric(
            <<<'SQL'
            SELECT i.id, i.number, i.kind, i.open, i.open_base, i.due_date, i.posting_date, d.description, d.reference
            FROM open_item i
            JOIN document d ON d.id = i.document_id
            WHERE i.company_id = ? AND i.side = 'receivables' AND i.party_id = ? AND i.open <> 0
            ORDER BY i.due_date, i.id
            SQL
            ,
            [$bench->companyId, $customers[$k % 2000]],
        );
    }
};
Bench::say(
    'proposing for 5,000 receipts among 50,000 items',
    Bench::best($propose, 2),
    'the bare SQL of their items',
    Bench::best($bareItems, 2),
);
printf("ideas for %d of 5000\n", $found);

$statement = $bench->get(AccountStatement::class);
$statements = static fn (): array => $statement->of($bench->companyId, $customers, null, $day);
$bareRows = static fn (): array => $bench->db->fetchAllNumeric(
    <<<'SQL'
    SELECT p.code, p.name, p.street, p.city, p.country, p.email, i.currency, i.number, i.kind, i.document_date, i.due_date, i.open
    FROM open_item i
    JOIN party p ON p.id = i.party_id
    WHERE i.company_id = ? AND i.side = 'receivables' AND i.open <> 0 AND i.posting_date <= '2026-06-15'
    ORDER BY p.code, i.currency, i.due_date, i.id
    SQL
    ,
    [$bench->companyId],
);
Bench::say(
    'statements of 2,000 customers',
    Bench::best($statements),
    'the bare SQL of their rows',
    Bench::best($bareRows),
);
$sum = 0;
foreach ($statements() as $s) {
    foreach ($s['currencies'] as $of) {
        $sum += $of['closing'];
    }
}
printf(
    "same total: %s; %d MB\n",
    $sum === array_sum(array_map('intval', array_column($bareRows(), 11))) ? 'yes' : 'NO',
    memory_get_peak_usage() >> 20,
);
$bench->clear();
