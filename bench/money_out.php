<?php

declare(strict_types=1);

/*
 * Money out, against bare SQL: php bench/money_out.php [open items] [payments]. See docs/performance.md.
 */
use Nelbix\App\Banking\PrintChecks;
use Nelbix\App\Payables\CandidateQuery;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Payables\ProposalQuery;
use Nelbix\App\Payables\StartRun;
use Nelbix\App\People\User;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Proposal\Criteria;
use Nelbix\Core\Proposal\Proposer;

require __DIR__.'/Bench.php';

$items = (int) ($argv[1] ?? 200_000);
$payments = (int) ($argv[2] ?? 2000);
$bench = new Bench($payments);
mt_srand(1);
$today = Day::of('2026-06-15');

// a run: 5 items for each of so many vendors, all due
$bench->items(
    5 * $payments,
    static fn (int $k): array => [
        'side' => Side::Payables,
        'party' => $bench->parties['payables'][intdiv($k, 5)],
        'posted' => ($p = Day::of('2026-05-01')),
        'due' => $p->plusDays(20),
        'amount' => mt_rand(1000, 900_000),
    ],
);
$bank = (int) $bench->db->fetchOne('SELECT id FROM bank_account WHERE company_id = ?', [$bench->companyId]);
$criteria = new Criteria($today, $today, $today->plusDays(7), 'USD', [], ['check']);
$make = Bench::time(static function () use ($bench, $criteria, $bank, &$id): void {
    $id = $bench->get(MakeProposal::class)->make($bench->actor, $criteria, $bank, 'check');
});
$bench->em->clear();
$query = $bench->get(ProposalQuery::class);
printf(
    "proposal of %d payments with %d items made: %.2f s; its review read: %.2f s\n",
    $payments,
    5 * $payments,
    $make,
    Bench::best(static function () use ($query, $id): void {
        $query->payments((int) $id);
        $query->totals((int) $id);
        $query->lines((int) $id, false, null, 300);
    }),
);
$page = $bench->page('/BENCH/payables/proposal/'.$id);
$bareLines = Bench::best(
    static fn () => $bench->db->fetchAllAssociative(
        <<<'SQL'
        SELECT y.payment, p.code, p.name, l.*
        FROM proposal_payment y
        JOIN party p ON p.id = y.party_id
        JOIN proposal_line l ON l.proposal_id = y.proposal_id AND l.payment = y.payment
        WHERE y.proposal_id = ?
        SQL
        ,
        [$id],
    ),
);
Bench::say(
    sprintf('the review page of %d lines in %d payments', 5 * $payments, $payments),
    $page,
    'the bare SQL that fetches the same lines',
    $bareLines,
);
$user = new User('second', 'Second');
$user->passwordHash = 'x';
$bench->em->persist($user);
$bench->em->flush();
$other = new Actor($bench->companyId, 'USD', $user->id());
$bench->get(DecideProposal::class)->decide($other, (int) $id, true);
$book = (int) $bench->db->fetchOne('SELECT id FROM check_book WHERE bank_account_id = ?', [$bank]);
$bench
    ->get(PrintChecks::class)
    ->print(
        $bench->actor,
        (int) $id,
        $book,
        (int) $bench->db->fetchOne('SELECT next_number FROM check_book WHERE id = ?', [$book]),
    );
$bench->get(PrintChecks::class)->sayWhatPrinted($bench->actor, (int) $id, [], '');
$bench->em->clear();
$before = (int) $bench->db->fetchOne('SELECT MAX(id) FROM document');
$post = Bench::time(
    static fn () => $bench->get(Worker::class)->finish($bench->get(StartRun::class)->start($bench->actor, (int) $id)),
);
$documents = "SELECT id FROM document WHERE id > $before AND company_id = ".$bench->companyId;
$entries =
    "(source_kind = 'document' AND source_id IN ($documents)) OR (source_kind = 'settlement' AND source_id IN ".
    "(SELECT id FROM settlement WHERE document_id IN ($documents)))";
$bare = $bench->copied([
    'document' => "id IN ($documents)",
    'open_item' => "document_id IN ($documents)",
    'settlement' => "document_id IN ($documents)",
    'settlement_line' => "settlement_id IN (SELECT id FROM settlement WHERE document_id IN ($documents))",
    'settlement_adjustment' => "settlement_id IN (SELECT id FROM settlement WHERE document_id IN ($documents))",
    'journal_entry' => $entries,
    'journal_line' => "entry_id IN (SELECT id FROM journal_entry WHERE $entries)",
    'history' => "subject = 'document' AND subject_id IN ($documents)",
]);
Bench::say(
    sprintf('a run of %d payments with %d items posted', $payments, 5 * $payments),
    $post,
    'bulk insert of the same '.$bare['rows'].' rows',
    $bare['seconds'],
);
$bench->em->clear();

// a proposal over very many open items, a tenth of them due
$bench->items(
    $items,
    static fn (int $k): array => [
        'side' => Side::Payables,
        'party' => $bench->parties['payables'][mt_rand(0, $payments - 1)],
        'posted' => Day::of('2026-05-20'),
        'due' => 0 === $k % 10 ? Day::of('2026-06-10') : Day::of('2026-07-20')->plusDays(mt_rand(0, 60)),
        'amount' => mt_rand(100, 900_000),
    ],
);
$ours = Bench::best(
    static fn () => Proposer::propose(
        $criteria,
        $bench->get(CandidateQuery::class)->each($bench->companyId),
        static fn (): bool => false,
    ),
    3,
);
$sql = <<<SQL
SELECT i.id, i.party_id, i.kind, i.number, i.account_id, i.currency, i.original, i.open, i.posting_date, i.due_date, p.code,
    p.method, d.held_reason, d.approval
FROM open_item i
JOIN party p ON p.id = i.party_id
JOIN document d ON d.id = i.document_id
WHERE i.company_id = ? AND i.side = 'payables' AND i.open <> 0
ORDER BY p.code, i.due_date, i.id
SQL;
$bareRead = Bench::best(static function () use ($bench, $sql): void {
    foreach ($bench->db->iterateNumeric($sql, [$bench->companyId]) as $row) {
        unset($row);
    }
}, 3);
Bench::say(
    sprintf('a proposal worked out over %d open items, %d of them due', $items, intdiv($items, 10)),
    $ours,
    'the bare SQL that fetches the same rows',
    $bareRead,
);
$bench->clear();
