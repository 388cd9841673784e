<?php

declare(strict_types=1);

/*
 * One of the clerks of bench/chaos.php: does what clerks do, at random, until the time is over, somebody kills it, or the database goes
 * away. Writes down what it sends before it does, and what it was answered: what has no answer it sends again first, with the same key.
 */
use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Banking\PrintChecks;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Kernel;
use Nelbix\App\Money\MoneyInput;
use Nelbix\App\Money\PostMoney;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Payables\StartRun;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

require __DIR__.'/../config/bootstrap.php';

[, $company, $user, $approver, $until, $log, $seed] = $argv;
mt_srand((int) $seed);
$kernel = new Kernel('test', false);
$kernel->boot();
$container = $kernel->getContainer()->get('test.service_container');
assert($container instanceof Psr\Container\ContainerInterface);
$db = $container->get(Connection::class);
$actor = new Actor((int) $company, 'USD', (int) $user);
$other = new Actor((int) $company, 'USD', (int) $approver);
$day = Day::of('2026-06-15');
$bank = $container->get(BankAccounts::class)->inUse((int) $company)[0];
$one = static fn (string $sql): array|false => $db->fetchAssociative($sql, [(int) $company]);
$write = static function (string $line) use ($log): void {
    file_put_contents($log, $line."\n", \FILE_APPEND);
};

$invoice = static function (Side $side, string $key, string $amount) use ($container, $actor): int {
    $raw = [
        'party' => sprintf('P-%04d', 1 + (crc32($key) % 20)),
        'number' => Side::Payables === $side ? $key : '',
        'document_date' => '2026-06-10',
        'look_alike_reason' => 'another',
        'lines' => [['account' => Side::Payables === $side ? '5000' : '4000', 'amount' => $amount]],
    ];

    return $container
        ->get(PostInvoice::class)
        ->post($actor, $container->get(InvoiceReader::class)->read($actor, $side, $raw, true), new FormKey($key, ''));
};
$money = static function (Side $side, string $key, int $item, int $party, int $amount) use (
    $container,
    $actor,
    $bank,
    $day,
): int {
    $kind = Side::Payables === $side ? DocumentKind::Payment : DocumentKind::Receipt;

    return $container
        ->get(PostMoney::class)
        ->post(
            $actor,
            new MoneyInput($side, $kind, $party, $bank->id, $day, 'USD', $amount, $key, 'wire', [
                new PlacementRequest($item, $amount),
            ]),
            new FormKey($key, ''),
        );
};

// what was sent and not answered
$open = [];
foreach (is_file($log) ? (file($log, \FILE_IGNORE_NEW_LINES) ?: []) : [] as $line) {
    [$word, $key, $what] = [...explode(' ', $line, 3), '', ''];
    if ('send' === $word) {
        $open[$key] = json_decode($what, true);
    } else {
        unset($open[$key]);
    }
}
$send = static function (string $key, array $what) use ($write, $invoice, $money): void {
    try {
        $id = match ($what[0]) {
            'invoice' => $invoice(Side::from($what[1]), $key, $what[2]),
            default => $money(Side::from($what[1]), $key, $what[2], $what[3], $what[4]),
        };
        $write("done $key $id");
    } catch (Refused $e) {
        $write("refused $key ".str_replace("\n", ' ', $e->getMessage()));
    }
};
foreach ($open as $key => $what) {
    $send($key, $what);
}
while (microtime(true) < (float) $until) {
    $key = bin2hex(random_bytes(8));
    $side = 0 === mt_rand(0, 1) ? Side::Payables : Side::Receivables;
    $dice = mt_rand(0, 99);
    try {
        if ($dice < 50) {
            $what = ['invoice', $side->value, mt_rand(1, 900).'.'.mt_rand(10, 99)];
        } elseif ($dice < 80) {
            $item = $one(
                'SELECT id, party_id, open FROM open_item WHERE company_id = ? AND is_open = 1 AND open > 0 AND reserved_by_id IS NULL '.
                    "AND side = '{$side->value}' ORDER BY RAND() LIMIT 1",
            );
            if (false === $item) {
                continue;
            }
            $amount = 0 === mt_rand(0, 2) ? mt_rand(1, (int) $item['open']) : (int) $item['open'];
            $what = ['money', $side->value, (int) $item['id'], (int) $item['party_id'], $amount];
        } else {
            $what = null;
        }
        if (null !== $what) {
            $write("send $key ".json_encode($what));
            $send($key, $what);
        } elseif ($dice < 90) {
            $row = $one(
                "SELECT id FROM document WHERE company_id = ? AND state = 'posted' AND reverses_id IS NULL ORDER BY RAND() LIMIT 1",
            );
            false === $row || $container->get(ReverseDocument::class)->reverse($actor, (int) $row['id'], 'chaos');
        } elseif ($dice < 96) {
            $row = $one('SELECT id FROM settlement WHERE company_id = ? AND undone_on IS NULL ORDER BY RAND() LIMIT 1');
            false === $row || $container->get(UndoSettlement::class)->undo($actor, (int) $row['id']);
        } else {
            ['criteria' => $criteria, 'bankAccountId' => $account, 'method' => $method] = $container
                ->get(CriteriaReader::class)
                ->read($actor, [
                    'pay_date' => '2026-06-15',
                    'due_through' => '2026-07-31',
                    'at_least' => (string) mt_rand(1, 500),
                ]);
            $run = $container->get(MakeProposal::class)->make($actor, $criteria, $account, $method);
            $container->get(DecideProposal::class)->decide($other, $run, true);
            $book =
                $db->fetchAssociative('SELECT id, next_number FROM check_book WHERE bank_account_id = ?', [$account]) ?:
                [];
            $container->get(PrintChecks::class)->print($actor, $run, (int) $book['id'], (int) $book['next_number']);
            $container->get(PrintChecks::class)->sayWhatPrinted($actor, $run, [], '');
            $container->get(StartRun::class)->start($actor, $run);
        }
    } catch (Refused) {
        // somebody else was first, or it may not be: that is what is tried here
    }
    $container->get(Doctrine\ORM\EntityManagerInterface::class)->clear();
    usleep(mt_rand(0, 30_000));
}
