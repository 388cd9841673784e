<?php

declare(strict_types=1);

/* "MADE FILE SERVERS": MADE has the proposal; approves, prints and posts a payment run and makes FILE when a quarter of it is posted. */
[$made, $file, $servers] = [json_decode((string) file_get_contents($argv[2]), true), $argv[3], array_slice($argv, 4)];
$run = new PaymentRun((string) $made['saved']);
$payments = count($made['payments']);
$clerk = new Somebody($servers, 'ilves', 1);
$run->approve(new Somebody($servers, 'soto', 0));
$run->print($clerk);
$run->post($clerk);
for ($n = 0; $n < 600 && 4 * $run->posted() < $payments; ++$n) {
    usleep(50_000);
}
$then = $run->posted();
touch($file);
$all = $run->isPosted();
printf(
    "%d payments, killed after %d, %d posted%s\n",
    $payments,
    $then,
    $run->posted(),
    $all ? '' : ', not the whole run',
);
exit($all && $payments === $run->posted() && $then < $payments ? 0 : 1);
