<?php

declare(strict_types=1);

/* "COUNT EACH SERVERS": clerks post invoices through all servers, asking again with the same form when nobody answered. */
[$count, $each, $servers] = [(int) $argv[2], (int) $argv[3], array_slice($argv, 4)];
$children = [];
for ($n = 0; $n < $count; ++$n) {
    $child = pcntl_fork();
    if (0 === $child) {
        $me = new Somebody($servers, ['ilves', 'brandt'][$n % 2], $n);
        for ($k = 0; $k < $each; ++$k) {
            $form = $me->page('/BOAT/payables/invoice');
            [$status, $body] = $me->send('/BOAT/payables/invoice', [
                '_token' => Somebody::field($form, '_token'),
                '_key' => Somebody::field($form, '_key'),
                '_action' => 'post',
                'kind' => 'invoice',
                'party' => sprintf('V-%04d', 1 + (($n + $k) % 9)),
                'number' => "CLUSTER-$n-$k",
                'document_date' => '.',
                'look_alike_reason' => 'another one',
                'lines' => [['account' => '5000', 'amount' => 1 + $k.'.'.sprintf('%02d', $n)]],
            ]);
            if (303 !== $status && 302 !== $status) {
                fwrite(STDERR, "clerk $n, invoice $k: $status ".substr(trim(strip_tags($body)), 0, 600)."\n");
                exit(1);
            }
        }
        file_put_contents(sys_get_temp_dir().'/cluster-waited-'.getmypid(), (string) $me->waited);
        exit(0);
    }
    $children[] = $child;
}
$bad = 0;
$waited = 0.0;
foreach ($children as $child) {
    pcntl_waitpid($child, $status);
    $bad += 0 === pcntl_wexitstatus($status) ? 0 : 1;
    $file = sys_get_temp_dir().'/cluster-waited-'.$child;
    $waited = max($waited, (float) @file_get_contents($file));
    @unlink($file);
}
$there = Rows::all(
    "SELECT COUNT(*), COUNT(DISTINCT their_number) FROM document WHERE their_number LIKE 'CLUSTER-%' AND state = 'posted'",
)[0];
$gaps = Rows::one(
    "SELECT MAX(CAST(SUBSTRING_INDEX(number, '-', -1) AS UNSIGNED)) - COUNT(*) FROM document WHERE company_id = ".
        "(SELECT id FROM company WHERE code = 'BOAT') AND number LIKE 'VI-26-%'",
);
printf(
    "%d clerks posted %d invoices, %d there, %d of them different; the longest wait %.1f s\n",
    $count,
    $count * $each,
    $there[0],
    $there[1],
    $waited,
);
exit(
    0 === $bad && $count * $each === (int) $there[0] && $there[0] === $there[1] && 0 === $gaps && $waited < 10 ? 0 : 1
);
