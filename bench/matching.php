<?php

declare(strict_types=1);

/*
 * 100,000 delivery lines that nobody invoiced, of 200 vendors: an invoice of 200 lines matched with as many of them, against bare SQL that
 * writes the same rows; what a vendor delivered, and the first page of what is received and not invoiced, against the bare SQL that reads
 * the same: php bench/matching.php. See docs/performance.md.
 */
use Nelbix\App\Goods\AccruedLines;
use Nelbix\App\Goods\DeliveryListQuery;
use Nelbix\App\Goods\NotInvoicedQuery;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

require __DIR__.'/Bench.php';

$bench = new Bench(200);
$db = $bench->db;
$vendors = $bench->parties['payables'];
mt_srand(20260615);
$account = static fn (string $number): int => (int) $db->fetchOne(
    'SELECT id FROM account WHERE company_id = ? AND number = ?',
    [$bench->companyId, $number],
);
[$control, $stock] = [$account('2110'), $account('1400')];
// 10,000 deliveries of ten lines each
foreach (range(0, 9) as $block) {
    $deliveries = $lines = [];
    foreach (range(1, 1000) as $k) {
        $id = $block * 1000 + $k;
        $day = Day::of('2026-01-01')->plusDays(mt_rand(0, 150))->iso();
        $sum = 0;
        foreach (range(1, 10) as $position) {
            [$quantity, $price] = [mt_rand(1, 40), mt_rand(100, 9_000)];
            $sum += $quantity * $price;
            $price = sprintf('%.2f', $price / 100);
            $amount = (int) round($quantity * (float) $price * 100);
            $lines[] =
                "($id, $position, $stock, 'goods $position', $quantity, $price, $amount, $amount, 'H87', $quantity, ".
                "$amount, $amount)";
        }
        $vendor = $vendors[$id % 200];
        $deliveries[] =
            "($id, {$bench->companyId}, $vendor, 'GR-$id', 'N-$id', '$day', 'USD', 1, $sum, $sum, $control, ".
            "{$bench->actor->userId}, '$day', '', $sum, 1)";
    }
    $db->executeStatement(
        'INSERT INTO delivery (id, company_id, party_id, number, note_number, delivered_on, currency, rate, amount, amount_base, '.
            'account_id, created_by_id, created_at, reason, open_base, is_open) VALUES '.
            implode(',', $deliveries),
    );
    $db->executeStatement(
        'INSERT INTO delivery_line (delivery_id, position, account_id, text, quantity, price, amount, amount_base, unit, open_quantity, '.
            'open_amount, open_base) VALUES '.
            implode(',', $lines),
    );
}
$db->fetchAllAssociative('ANALYZE TABLE delivery, delivery_line');

$reader = $bench->get(InvoiceReader::class);
$post = $bench->get(PostInvoice::class);
$accrued = $bench->get(AccruedLines::class);
$times = $documents = [];
foreach (range(0, 4) as $try) {
    $lines = array_slice($accrued->ofVendor($bench->companyId, $vendors[$try]), 0, 200);
    $raw = [
        'party' => (string) $db->fetchOne('SELECT code FROM party WHERE id = ?', [$vendors[$try]]),
        'number' => 'B-'.$try,
        'document_date' => '2026-06-15',
        'lines' => array_map(
            static fn ($l): array => [
                'account' => '1400',
                'text' => $l->text,
                'amount' => $l->left->quantity->stripTrailingZeros().' × '.$l->price,
                'delivery_line' => (string) $l->id,
            ],
            $lines,
        ),
    ];
    $times[] = Bench::time(static function () use ($bench, $reader, $post, $raw, &$documents): void {
        $documents[] = $post->post($bench->actor, $reader->read($bench->actor, Side::Payables, $raw));
    });
}
$document = $documents[4];
$bare = $bench->copied([
    'document' => "id = $document",
    'document_line' => "document_id = $document",
    'open_item' => "document_id = $document",
    'goods_move' => "document_id = $document",
    'match_finding' => "document_id = $document",
    'journal_entry' => "source_kind = 'document' AND source_id = $document",
    'journal_line' => "entry_id IN (SELECT id FROM journal_entry WHERE source_kind = 'document' AND source_id = $document)",
]);
// and the delivery lines that it takes from, in one statement
$bare['seconds'] += Bench::time(
    static fn () => $db->executeStatement(
        <<<'SQL'
        UPDATE delivery_line l
        JOIN goods_move m ON m.delivery_line_id = l.id AND m.document_id = ?
        SET l.open_quantity = l.quantity - m.quantity + 0.0001, l.open_amount = l.amount - m.amount,
            l.open_base = l.amount_base - m.amount_base
        SQL
        ,
        [$document],
    ),
);
Bench::say(
    'an invoice of 200 lines, matched with as many',
    min($times),
    'bulk-inserting its '.$bare['rows'].' rows',
    $bare['seconds'],
);

$offer = static fn (): array => $accrued->ofVendor($bench->companyId, $vendors[100]);
$bareOffer = static fn (): array => $db->fetchAllNumeric(
    <<<'SQL'
    SELECT l.id, g.number, g.note_number, g.delivered_on, l.text, l.unit, l.price, l.open_quantity, l.open_amount
    FROM delivery g
    JOIN delivery_line l ON l.delivery_id = g.id
    WHERE g.company_id = ? AND g.is_open = 1 AND g.party_id = ? AND l.open_quantity > 0
    ORDER BY g.delivered_on, g.id, l.position
    LIMIT 300
    SQL
    ,
    [$bench->companyId, $vendors[100]],
);
Bench::say(
    'what a vendor delivered and nobody invoiced',
    Bench::best($offer),
    'the bare SQL of it',
    Bench::best($bareOffer),
);

$list = $bench->get(DeliveryListQuery::class);
$page = static fn (): array => [$list->page($bench->companyId, false), $list->foot($bench->companyId)];
$barePage = static fn (): array => [
    $db->fetchAllNumeric(
        <<<'SQL'
        SELECT g.id, g.number, g.note_number, g.delivered_on, g.amount, g.open_base, p.code, p.name
        FROM delivery g
        JOIN party p ON p.id = g.party_id
        WHERE g.company_id = ? AND g.is_open = 1
        ORDER BY g.delivered_on DESC, g.id DESC
        LIMIT 51
        SQL
        ,
        [$bench->companyId],
    ),
    $db->fetchNumeric('SELECT COUNT(*), SUM(open_base) FROM delivery WHERE company_id = ? AND is_open = 1', [
        $bench->companyId,
    ]),
];
Bench::say(
    'the first page of deliveries not invoiced, with count and sum',
    Bench::best($page),
    'bare',
    Bench::best($barePage),
);

$ages = $bench->get(NotInvoicedQuery::class);
$byVendor = static fn (): array => $ages->byVendor($bench->companyId, Day::of('2026-06-15'));
$bareAges = static fn (): array => $db->fetchAllNumeric(
    <<<'SQL'
    SELECT g.party_id, COUNT(*), SUM(l.amount_base - COALESCE(m.base, 0))
    FROM delivery g
    JOIN delivery_line l ON l.delivery_id = g.id
    LEFT JOIN (SELECT delivery_line_id, SUM(amount_base) AS base FROM goods_move GROUP BY delivery_line_id) m
        ON m.delivery_line_id = l.id
    WHERE g.company_id = ?
    GROUP BY g.party_id
    SQL
    ,
    [$bench->companyId],
);
Bench::say(
    'what is accrued as of a day, by vendor and age',
    Bench::best($byVendor, 3),
    'bare',
    Bench::best($bareAges, 3),
);
$ours = array_sum(array_column($byVendor(), 'base'));
printf(
    "same sum: %s; %d MB\n",
    $ours === array_sum(array_map(static fn (array $r): int => (int) $r[2], $bareAges())) ? 'yes' : 'NO',
    memory_get_peak_usage() >> 20,
);
$bench->clear();
