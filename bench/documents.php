<?php

declare(strict_types=1);

/*
 * Documents in, against bare SQL: php bench/documents.php [invoices] [documents]. See docs/performance.md.
 */
use Nelbix\App\Books\ItemFilter;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Import\ImportFile;
use Nelbix\App\Invoices\DocumentFilter;
use Nelbix\App\Invoices\DocumentListQuery;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\KeepRows;
use Nelbix\App\Invoices\PostBatch;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Invoices\SaveBatch;
use Nelbix\App\Platform\Keyset;
use Nelbix\Core\Calendar\DateInput;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

require __DIR__.'/Bench.php';

$invoices = (int) ($argv[1] ?? 2000);
$documents = (int) ($argv[2] ?? 200_000);
$bench = new Bench();
$of = static fn (string $documents): array => array_map(
    static fn (string $where): string => strtr($where, ['{d}' => $documents]),
    [
        'document' => 'id IN ({d})',
        'document_line' => 'document_id IN ({d})',
        'document_tax' => 'document_id IN ({d})',
        'open_item' => 'document_id IN ({d})',
        'item_discount' => 'item_id IN (SELECT id FROM open_item WHERE document_id IN ({d}))',
        'journal_entry' => "source_kind = 'document' AND source_id IN ({d})",
        'journal_line' => "entry_id IN (SELECT id FROM journal_entry WHERE source_kind = 'document' AND source_id IN ({d}))",
        'history' => "subject = 'document' AND subject_id IN ({d})",
    ],
);

// posting through the use case
$enter = static function (string $prefix) use ($bench, $invoices): void {
    for ($n = 0; $n < $invoices; ++$n) {
        $bench->get(PostInvoice::class)->post(
            $bench->actor,
            $bench->get(InvoiceReader::class)->read(
                $bench->actor,
                Side::Payables,
                [
                    'party' => sprintf('P-%04d', ($n % 200) + 1),
                    'number' => $prefix.$n,
                    'document_date' => '2026-06-01',
                    'lines' => [
                        ['account' => '5000', 'amount' => '100.00', 'tax_code' => 'P8'],
                        ['account' => '5200', 'amount' => '12.50'],
                    ],
                ],
                true,
            ),
        );
        if (0 === $n % 20) {
            $bench->em->flush();
            $bench->em->clear();
        }
    }
};
$ours = Bench::time(static fn () => $enter('N'));
$bench->em->clear();
$bare = $bench->copied($of('SELECT d.id FROM document d'));
Bench::say(
    $invoices.' vendor invoices, a transaction each',
    $ours,
    'bulk insert of the same '.$bare['rows'].' rows',
    $bare['seconds'],
);
$own = "source_kind = 'document'";
$single = $bench->copiedOneByOne([
    'document' => ['where' => '1 = 1', 'of' => 't.id'],
    'document_line' => ['where' => '1 = 1', 'of' => 't.document_id'],
    'document_tax' => ['where' => '1 = 1', 'of' => 't.document_id'],
    'open_item' => ['where' => '1 = 1', 'of' => 't.document_id'],
    'item_discount' => [
        'where' => '1 = 1',
        'of' => '(SELECT i.document_id FROM open_item i WHERE i.id = t.item_id)',
    ],
    'journal_entry' => ['where' => $own, 'of' => 't.source_id'],
    'journal_line' => [
        'where' => "entry_id IN (SELECT id FROM journal_entry WHERE $own)",
        'of' => '(SELECT e.source_id FROM journal_entry e WHERE e.id = t.entry_id)',
    ],
    'history' => ['where' => "subject = 'document'", 'of' => 't.subject_id'],
]);
Bench::say('the same', $ours, 'the same rows in a transaction for each invoice, a statement a table', $single);

// the same from a file: planned, then written at once
$csv = "party,number,document_date,account,amount,tax_code,look_alike_reason\n";
for ($n = 0; $n < $invoices; ++$n) {
    $begin = sprintf('P-%04d,F%d,2026-06-01,', ($n % 200) + 1, $n);
    $csv .= $begin."5000,100.00,P8,bench\n".$begin."5200,12.50,,bench\n";
}
foreach ([true, false] as $dryRun) {
    $ours = Bench::time(static function () use ($bench, $csv, $dryRun, $invoices): void {
        $result = $bench->get(ImportFile::class)->import($bench->actor, 'vendor-invoices', $csv, $dryRun);
        if ($invoices !== $result['created']) {
            throw new RuntimeException(
                'The file was not taken: '.implode(' ', array_column($result['errors'], 'message')),
            );
        }
    });
    $bench->em->clear();
    Bench::say($dryRun ? 'the same from a file, checked' : 'taken over', $ours, 'the same', $bare['seconds']);
}

// payments of them from a file: posted one by one
$last = (int) $bench->db->fetchOne('SELECT MAX(id) FROM document');
$csv = "party,date,bank,reference,currency,amount,apply_to,applied,look_alike_reason\n";
for ($n = 0; $n < $invoices; ++$n) {
    $csv .= sprintf("P-%04d,2026-06-15,1000,T%d,USD,120.50,F%2\$d,120.50,bench\n", ($n % 200) + 1, $n);
}
foreach ([true, false] as $dryRun) {
    $ours = Bench::time(static function () use ($bench, $csv, $dryRun, $invoices): void {
        $result = $bench->get(ImportFile::class)->import($bench->actor, 'payments', $csv, $dryRun);
        if ($invoices !== $result['created']) {
            throw new RuntimeException(
                'The file was not taken: '.implode(' ', array_column($result['errors'], 'message')),
            );
        }
    });
    $bench->em->clear();
    if (!$dryRun) {
        $bare = $bench->copied($of('SELECT d.id FROM document d WHERE d.id > '.$last));
        Bench::say(
            $invoices.' payments of them from a file',
            $ours,
            'bulk insert of the '.$bare['rows'].' rows of their documents',
            $bare['seconds'],
        );
    } else {
        printf("%d payments checked: %.2f s\n", $invoices, $ours);
    }
}

// a grid of 200 rows: kept as drafts, then posted whole
$last = (int) $bench->db->fetchOne('SELECT MAX(id) FROM document');
$batch = $bench
    ->get(SaveBatch::class)
    ->save($bench->actor, Side::Payables, ['name' => 'bench', 'posting_date' => '2026-06-15']);
$rows = array_map(
    static fn (int $k): array => [
        'party' => sprintf('P-%04d', ($k % 200) + 1),
        'number' => 'G-'.$k,
        'document_date' => '2026-06-10',
        'account' => '5000',
        'amount' => '12.50',
        'tax_code' => 'P8',
        'text' => 'row '.$k,
    ],
    range(0, 199),
);
$keep = Bench::time(static fn () => $bench->get(KeepRows::class)->keep($bench->actor, Side::Payables, $batch, $rows));
$bench->em->clear();
$one = Bench::time(
    static fn () => $bench->get(KeepRows::class)->keep($bench->actor, Side::Payables, $batch, [
        [
            'party' => 'P-0001',
            'number' => 'G-one',
            'account' => '5000',
            'document_date' => '2026-06-10',
            'amount' => '1',
        ],
    ]),
);
$bench->em->clear();
$post = Bench::time(static fn () => $bench->get(PostBatch::class)->post($bench->actor, Side::Payables, $batch));
$bare = $bench->copied($of('SELECT d.id FROM document d WHERE d.id > '.$last));
Bench::say(
    'a grid of 200 rows kept as drafts',
    $keep,
    'bulk insert of what it posts to, '.$bare['rows'].' rows',
    $bare['seconds'],
);
Bench::say('the batch of it posted whole', $post, 'the same', $bare['seconds']);
printf("one row of the grid, as one leaves it: %.0f ms\n", 1000 * $one);

// the list
mt_srand(1);
$bench->items(
    $documents,
    static fn (int $k): array => [
        'side' => Side::Payables,
        'party' => $bench->parties['payables'][mt_rand(0, 199)],
        'posted' => ($p = Day::of('2024-06-01')->plusDays(intdiv($k * 700, 200_000))),
        'due' => $p->plusDays(30),
        'amount' => mt_rand(100, 900_000),
    ],
);
$query = $bench->get(DocumentListQuery::class);
$day = Day::of('2026-06-15');
$filter = new DocumentFilter(
    $bench->companyId,
    Side::Payables,
    'USD',
    new DateInput($day),
    $day,
    array_fill_keys(DocumentFilter::KEYS, ''),
);
$page = static fn (?string $after): array => [$query->page($filter, $after), $query->foot($filter)];
$first = Bench::best(static fn () => $page(null));
$end = Bench::best(static fn () => $page((new Keyset(['d.id']))->place(['k0' => 120])));
$sql = <<<SQL
SELECT d.id, d.number, d.their_number, d.kind, d.state, d.document_date, d.posting_date, d.due_date, d.total, d.currency,
    p.code, p.name
FROM document d
JOIN party p ON p.id = d.party_id
WHERE d.company_id = ? AND d.side = 'payables' AND d.state <> 'draft' AND d.id < ?
ORDER BY d.id DESC
LIMIT 101
SQL;
$sum = "SELECT COUNT(*), SUM(total_base) FROM document WHERE company_id = ? AND side = 'payables' AND state <> 'draft'";
foreach (['first' => [$first, \PHP_INT_MAX], 'last' => [$end, 120]] as $page => [$seconds, $before]) {
    $bare = Bench::best(static function () use ($bench, $sql, $sum, $before): void {
        $bench->db->fetchAllNumeric($sum, [$bench->companyId]);
        $bench->db->fetchAllNumeric($sql, [$bench->companyId, $before]);
    });
    Bench::say(
        sprintf('%s page of %d documents, with count and total', $page, $documents),
        $seconds,
        'page and total in bare SQL',
        $bare,
    );
}
// open items, as their list shows them
$items = $bench->get(OpenItemsQuery::class);
foreach (['due', 'party', 'open'] as $order) {
    $filter = new ItemFilter($bench->companyId, Side::Payables, $day, order: $order);
    $sort = ['due' => 'i.due_date, i.id', 'party' => 'p.code, i.due_date, i.id', 'open' => 'i.open DESC, i.id DESC'][
        $order
    ];
    $bare = Bench::best(static function () use ($bench, $sort): void {
        $bench->db->fetchAllNumeric(
            "SELECT COUNT(*), SUM(open_base), SUM(IF(open > 0 AND due_date < '2026-06-15', open_base, 0)) FROM open_item
            WHERE company_id = ? AND side = 'payables' AND open <> 0",
            [$bench->companyId],
        );
        $bench->db->fetchAllNumeric(
            "SELECT i.id, i.number, p.code, p.name, d.their_number, i.document_date, i.due_date, i.currency, i.original, i.open
            FROM open_item i JOIN party p ON p.id = i.party_id JOIN document d ON d.id = i.document_id
            WHERE i.company_id = ? AND i.side = 'payables' AND i.open <> 0 ORDER BY $sort LIMIT 201",
            [$bench->companyId],
        );
    });
    Bench::say(
        sprintf('first page of %d open items by %s, with count and totals', $documents, $order),
        Bench::best(static fn () => [$items->page($filter), $items->foot($filter)]),
        'the same in bare SQL',
        $bare,
    );
}
$bench->clear();
