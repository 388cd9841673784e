<?php

declare(strict_types=1);

/*
 * One of two processes that do the same at the same time. Started by ConcurrencyTest; waits for the given moment,
 * acts through the use case, prints "done" or "refused: …".
 */
use Nelbix\App\Kernel;
use Nelbix\App\Payables\PrintChecks;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Settlement\MoneyInput;
use Nelbix\App\Settlement\PostMoney;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

require __DIR__.'/../bootstrap.php';

[, $what, $company, $user, $moment] = $argv;
$arguments = array_map('intval', array_slice($argv, 5));
$kernel = new Kernel('test', false);
$kernel->boot();
$container = $kernel->getContainer()->get('test.service_container');
$actor = new Actor((int) $company, 'USD', (int) $user);
$service = $container->get('print' === $what ? PrintChecks::class : PostMoney::class);
while (microtime(true) < (float) $moment) {
    usleep(200);
}
try {
    if ('print' === $what) {
        [$proposal, $book, $first] = $arguments;
        $service->print($actor, $proposal, $book, $first);
    } else {
        [$party, $bank, $item, $amount] = $arguments;
        $service->post($actor, new MoneyInput(Side::Receivables, DocumentKind::Receipt, $party, $bank, Day::of('2026-06-15'), 'USD', $amount, '', '', [['item' => $item, 'applied' => $amount]]));
    }
    echo 'done';
} catch (Refused $e) {
    echo 'refused: '.$e->getMessage();
}
