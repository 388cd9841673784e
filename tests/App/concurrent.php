<?php

declare(strict_types=1);

/*
 * One of two processes that do the same at the same time. Started by ConcurrencyTest; waits for the given moment,
 * acts through the use case, prints "done" or "refused: …".
 */
use Brick\Math\BigDecimal;
use Nelbix\App\Banking\PrintChecks;
use Nelbix\App\Banking\Statement\Choice;
use Nelbix\App\Banking\Statement\Overlap;
use Nelbix\App\Banking\Statement\PartKind;
use Nelbix\App\Banking\Statement\PlaceLine;
use Nelbix\App\Banking\Statement\TakeStatement;
use Nelbix\App\Banking\VoidCheck;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\SettleItems;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Close\Revaluation\PostRevaluation;
use Nelbix\App\Close\Revaluation\ProposeRevaluation;
use Nelbix\App\Close\TieOut\SignOffTieOut;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Close\Year\CloseYear;
use Nelbix\App\Close\Year\ProposeYearEnd;
use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\RecordDelivery;
use Nelbix\App\Goods\ReverseDelivery;
use Nelbix\App\Goods\SendGoodsBack;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Kernel;
use Nelbix\App\Ledger\AddYear;
use Nelbix\App\Ledger\SaveRate;
use Nelbix\App\Money\MoneyInput;
use Nelbix\App\Money\PostMoney;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Payables\StartRun;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\StatementLine;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Proposal\Criteria;
use Nelbix\Core\Refused;

require __DIR__.'/../bootstrap.php';

[, $what, $company, $user, $moment] = $argv;
$arguments = array_map('intval', array_slice($argv, 5));
$kernel = new Kernel('test', false);
$kernel->boot();
$container = $kernel->getContainer()->get('test.service_container');
assert($container instanceof Psr\Container\ContainerInterface);
$actor = new Actor((int) $company, 'USD', (int) $user);
$service = $container->get(
    match ($what) {
        'print' => PrintChecks::class,
        'propose' => MakeProposal::class,
        'post' => StartRun::class,
        'work' => Worker::class,
        'void' => VoidCheck::class,
        'settle' => SettleItems::class,
        'match', 'await' => PostInvoice::class,
        'deliver' => RecordDelivery::class,
        'undo' => ReverseDelivery::class,
        'back' => SendGoodsBack::class,
        'line' => PlaceLine::class,
        'replace' => TakeStatement::class,
        'revalue' => PostRevaluation::class,
        'rate' => SaveRate::class,
        'year' => AddYear::class,
        'close' => CloseYear::class,
        'sign' => SignOffTieOut::class,
        default => PostMoney::class,
    },
);
while (microtime(true) < (float) $moment) {
    usleep(200);
}
try {
    switch ($what) {
        case 'print':
            [$proposal, $book, $first] = $arguments;
            $service->print($actor, $proposal, $book, $first);
            break;
        case 'revalue':
            $day = Day::of('2026-05-31');
            $seen = $container->get(ProposeRevaluation::class)->of($actor->companyId, 'USD', $day)->digest();
            $service->post($actor, $day, $seen);
            break;
        case 'rate':
            $service->save($actor, Day::of('2026-06-02'), 'CHF', 'USD', BigDecimal::of($arguments[0]), 'typed');
            break;
        case 'year':
            $service->add($actor, $arguments[0]);
            break;
        case 'close':
            $seen = $container->get(ProposeYearEnd::class)->of($actor->companyId, 'USD', $arguments[0])->digest();
            $service->close($actor, $arguments[0], $seen);
            break;
        case 'sign':
            $day = Day::of('2026-04-30');
            $seen = [];
            foreach ($container->get(TieOutQuery::class)->of($actor->companyId, $day) as $r) {
                $seen[$r['account']] = SignOffTieOut::digest($r['account'], $day, $r['tie']);
            }
            $service->sign($actor, $day, $seen, 'as agreed');
            break;
        case 'propose':
            $day = Day::of('2026-06-15');
            $service->make(
                $actor,
                new Criteria($day, $day, $day->plusDays(7), 'USD', [], ['check']),
                $arguments[0],
                'check',
            );
            break;
        case 'line':
            // straight to an account, or joined with an entry
            [$line, $amount, $entry] = [...$arguments, 0, 0];
            $part = [
                'account' => '6400',
                'amount' => $amount,
                'tax' => '',
                'cost_center' => '',
                'department' => '',
                'project' => '',
                'text' => '',
            ];
            $service->place(
                $actor,
                $line,
                0 === $entry
                    ? new Choice(PartKind::Accounts, $amount, parts: [$part])
                    : new Choice(PartKind::Joined, $amount, entries: [[$entry, $amount]]),
            );
            break;
        case 'replace':
            [$bank, $amount] = $arguments;
            $day = Day::of('2026-06-15');
            $lines = [new StatementLine($day, null, $amount, 'x'), new StatementLine($day, null, 1, 'more')];
            $service->take(
                $actor,
                $bank,
                new BankStatement('8', '', 'USD', $day, $day, 0, $amount + 1, $lines),
                'hand',
                'another',
                Overlap::Replace,
            );
            break;
        case 'post':
            // this line tells the test that the run is being posted from here on
            echo "posting\n";
            $container->get(Worker::class)->finish($service->start($actor, $arguments[0]));
            break;
        case 'work':
            echo "posting\n";
            $service->finish($arguments[0]);
            break;
        case 'settle':
            [$credit, $owed, $amount] = $arguments;
            $service->settle(
                $actor,
                new SettlementRequest(
                    Side::Receivables,
                    [new PlacementRequest($credit, -$amount), new PlacementRequest($owed, $amount)],
                    [],
                    Day::of('2026-06-15'),
                ),
            );
            break;
        case 'match':
        case 'await':
            [$line, $quantity] = $arguments;
            $raw = [
                'party' => 'V-1',
                'number' => 'M-'.random_int(1, 999_999_999),
                'document_date' => '2026-06-15',
                'look_alike_reason' => 'another one',
                'lines' => [
                    [
                        'account' => '1400',
                        'amount' => $quantity.' × 12.50',
                        'match' === $what ? 'delivery_line' : 'order_line' => (string) $line,
                    ],
                ],
            ];
            $service->post($actor, $container->get(InvoiceReader::class)->read($actor, Side::Payables, $raw));
            break;
        case 'deliver':
            [$line, $quantity] = $arguments;
            $raw = [
                'delivered_on' => '2026-06-15',
                'lines' => [['order_line' => (string) $line, 'quantity' => (string) $quantity]],
            ];
            $service->record($actor, $container->get(DeliveryReader::class)->read($actor, $raw));
            break;
        case 'undo':
            $service->reverse($actor, $arguments[0], Day::of('2026-06-15'), 'wrong');
            break;
        case 'back':
            [$line, $quantity] = $arguments;
            $service->send($actor, [$line => BigDecimal::of($quantity)], Day::of('2026-06-15'), 'broken');
            break;
        case 'void':
            [$book, $number] = $arguments;
            $service->void($actor, $book, $number, Day::of('2026-06-15'), 'lost', false);
            break;
        default:
            [$party, $bank, $item, $amount] = $arguments;
            $service->post(
                $actor,
                new MoneyInput(
                    Side::Receivables,
                    DocumentKind::Receipt,
                    $party,
                    $bank,
                    Day::of('2026-06-15'),
                    'USD',
                    $amount,
                    '',
                    '',
                    [new PlacementRequest($item, $amount)],
                ),
            );
    }
    echo 'done';
} catch (Refused $e) {
    echo 'refused: '.$e->getMessage();
}
