<?php

declare(strict_types=1);

/*
 * Month end against bare SQL of the same run: php bench/month_end.php [items]. The aging as of a past day over so many items and twice as
 * many settlement lines, the tie-out with its break day, a revaluation, the audit file. See docs/performance.md.
 */
use Nelbix\App\Close\Aging\AgingCriteria;
use Nelbix\App\Close\Aging\AgingQuery;
use Nelbix\App\Close\Audit\AuditXml;
use Nelbix\App\Close\Revaluation\ProposeRevaluation;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Aging\Bucketing;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

require __DIR__.'/Bench.php';

$items = (int) ($argv[1] ?? 100_000);
$bench = new Bench();
mt_srand(15);
$bench->items(
    $items,
    static fn (): array => [
        'side' => Side::Receivables,
        'party' => $bench->parties['receivables'][mt_rand(0, 199)],
        'posted' => ($p = Day::of('2024-07-01')->plusDays(mt_rand(0, 700))),
        'due' => $p->plusDays(30),
        'amount' => mt_rand(10_000, 900_000),
    ],
);
// two settlements of a part of each item, 20 and 40 days after it, by bare SQL; and an entry of two lines for each document
$c = $bench->companyId;
$user = $bench->actor->userId;
$db = $bench->db;
$db->executeStatement('SET FOREIGN_KEY_CHECKS = 0');
foreach ([20, 40] as $days) {
    $db->executeStatement(
        <<<SQL
        INSERT INTO settlement (company_id, side, party_id, currency, settled_on, rate, document_id, exchange, created_by_id, created_at)
        SELECT $c, side, party_id, currency, posting_date + INTERVAL $days DAY, 1, document_id, 0, $user, NOW()
        FROM open_item WHERE company_id = $c
        SQL
        ,
    );
    $db->executeStatement(
        <<<SQL
        INSERT INTO settlement_line (settlement_id, item_id, applied, applied_base)
        SELECT s.id, i.id, 3000, 3000
        FROM open_item i JOIN settlement s ON s.document_id = i.document_id AND s.settled_on = i.posting_date + INTERVAL $days DAY
        WHERE i.company_id = $c
        SQL
        ,
    );
}
$db->executeStatement(
    'UPDATE open_item SET open = original - 6000, open_base = original_base - 6000, last_moved_on = posting_date + INTERVAL 40 DAY',
);
$db->executeStatement(
    <<<SQL
    INSERT INTO journal_entry (company_id, year, sequence, number, posting_date, currency, text, source_kind, source_id, bypass,
        created_by_id, created_at)
    SELECT $c, YEAR(posting_date), id, CONCAT('JE-', id), posting_date, 'USD', 'bench', 'document', document_id, 0, $user, NOW()
    FROM open_item WHERE company_id = $c
    SQL
    ,
);
$db->executeStatement(
    <<<SQL
    INSERT INTO journal_entry (company_id, year, sequence, number, posting_date, currency, text, source_kind, source_id, bypass,
        created_by_id, created_at)
    SELECT $c, YEAR(settled_on), 9000000 + id, CONCAT('JS-', id), settled_on, 'USD', 'bench', 'settlement', id, 0, $user, NOW()
    FROM settlement WHERE company_id = $c
    SQL
    ,
);
$account = static fn (string $n): int => (int) $db->fetchOne(
    'SELECT id FROM account WHERE company_id = ? AND number = ?',
    [$c, $n],
);
foreach ([[1, $account('1200'), 1], [2, $account('4000'), -1]] as [$position, $id, $sign]) {
    $db->executeStatement(
        <<<SQL
        INSERT INTO journal_line (entry_id, position, account_id, posting_date, base, amount, text, party_id)
        SELECT e.id, $position, $id, e.posting_date, $sign * i.original_base, $sign * i.original, '', i.party_id
        FROM journal_entry e JOIN open_item i ON i.document_id = e.source_id
        WHERE e.company_id = $c AND e.source_kind = 'document'
        SQL
        ,
    );
}
foreach ([[1, $account('1000'), 1], [2, $account('1200'), -1]] as [$position, $id, $sign]) {
    $db->executeStatement(
        <<<SQL
        INSERT INTO journal_line (entry_id, position, account_id, posting_date, base, amount, text, party_id)
        SELECT e.id, $position, $id, e.posting_date, $sign * 3000, $sign * 3000, '', s.party_id
        FROM journal_entry e JOIN settlement s ON s.id = e.source_id
        WHERE e.company_id = $c AND e.source_kind = 'settlement'
        SQL
        ,
    );
}
$db->executeStatement('SET FOREIGN_KEY_CHECKS = 1');
$db->fetchAllAssociative('ANALYZE TABLE settlement, settlement_line, open_item, journal_entry, journal_line');
$past = Day::of('2025-12-31');
$aging = static fn (): array => $bench
    ->get(AgingQuery::class)
    ->lines(new AgingCriteria($c, Side::Receivables, $past, new Bucketing([30, 60, 90])));
$sql = <<<'SQL'
SELECT x.party_id, SUM(IF(x.late <= 0, x.open, 0)), SUM(IF(x.late BETWEEN 1 AND 30, x.open, 0)),
    SUM(IF(x.late BETWEEN 31 AND 60, x.open, 0)), SUM(IF(x.late BETWEEN 61 AND 90, x.open, 0)), SUM(IF(x.late > 90, x.open, 0)), SUM(x.open)
FROM (
    SELECT i.party_id, DATEDIFF('2025-12-31', i.due_date) AS late, i.original_base - COALESCE(t.applied, 0) AS open
    FROM open_item i
    LEFT JOIN (SELECT l.item_id, SUM(l.applied_base) AS applied FROM settlement s JOIN settlement_line l ON l.settlement_id = s.id
        WHERE s.company_id = ? AND s.settled_on <= '2025-12-31' AND (s.undone_on IS NULL OR s.undone_on > '2025-12-31')
        GROUP BY l.item_id) t ON t.item_id = i.id
    WHERE i.company_id = ? AND i.side = 'receivables' AND i.posting_date <= '2025-12-31'
) x
GROUP BY x.party_id
SQL;
$bare = static fn (): array => $db->fetchAllNumeric($sql, [$c, $c]);
$say = static fn (string $what, float $ours, string $than, float $base) => Bench::say($what, $ours, $than, $base);
$bareTime = Bench::best($bare, 3);
$say("aging as of a past day over $items items", Bench::best($aging, 3), 'the one SQL statement', $bareTime);
printf(
    "same total: %s\n",
    array_sum(array_map(static fn ($l): int => $l->row->total(), $aging())) ===
    array_sum(array_map('intval', array_column($bare(), 6)))
        ? 'yes'
        : 'NO',
);
$tie = static fn (): array => $bench->get(TieOutQuery::class)->of($c, Day::of('2026-06-15'));
$say('tie-out with break day over two years', Bench::best($tie, 3), 'the same SQL statement', $bareTime);
$db->executeStatement("UPDATE open_item SET currency = 'EUR' WHERE company_id = ? ORDER BY id LIMIT 20000", [$c]);
$db->executeStatement(
    <<<'SQL'
    INSERT IGNORE INTO exchange_rate (company_id, valid_on, from_currency, to_currency, rate)
    VALUES (?, '2024-01-01', 'EUR', 'USD', 1.1)
    SQL
    ,
    [$c],
);
$revalue = static fn () => $bench->get(ProposeRevaluation::class)->of($c, 'USD', Day::of('2026-06-15'));
$some = static fn (): array => $db->fetchAllAssociative(
    "SELECT id, open, open_base, ROUND(open * 1.1) FROM open_item WHERE company_id = ? AND currency = 'EUR' AND is_open = 1",
    [$c],
);
$say('revaluation of 20,000 items', Bench::best($revalue, 3), 'reading them', Bench::best($some, 3));
$company = $bench->em->find(Company::class, $c) ?? throw new LogicException();
$before = memory_get_usage();
$bytes = 0;
$audit = static function () use ($bench, $company, &$bytes): void {
    $bytes = 0;
    $bench
        ->get(AuditXml::class)
        ->write($company, Day::of('2024-01-01'), Day::of('2026-06-15'), static function (string $p) use (
            &$bytes,
        ): void {
            $bytes += strlen($p);
        });
};
memory_reset_peak_usage();
$seconds = Bench::time($audit);
printf(
    "audit file of %d lines: %.1f s, %d MB written, %d MB of memory\n",
    6 * $items,
    $seconds,
    $bytes >> 20,
    (memory_get_peak_usage() - $before) >> 20,
);
$bench->clear();
