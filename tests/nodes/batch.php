<?php

declare(strict_types=1);

/* "FILE SERVERS": keeps 200 rows as drafts of a batch, makes FILE and posts it whole. */
[$file, $servers] = [$argv[2], array_slice($argv, 3)];
$me = new Somebody($servers, 'ilves', 0);
$token = Somebody::field($me->page('/BOAT/payables/batches'), '_token', true);
$me->send('/BOAT/payables/batches/open', [
    '_token' => $token,
    'name' => 'cluster',
    'posting_date' => '12 Jun 2026',
]);
$id = Rows::one("SELECT MAX(id) FROM batch WHERE name = 'cluster'");
$rows = [];
for ($k = 1; $k <= 200; ++$k) {
    $rows[$k] = [
        'party' => sprintf('V-%04d', 1 + ($k % 9)),
        'number' => 'BATCH-'.$k,
        'document_date' => '12 Jun 2026',
        'account' => '5000',
        'amount' => 3000 + $k.'.17',
        'look_alike_reason' => 'another one',
    ];
}
[$status, $said] = $me->json("/BOAT/payables/batches/$id/rows", ['rows' => $rows], $token);
if (200 !== $status) {
    fwrite(STDERR, "the rows were not kept: $status $said\n");
    exit(1);
}
touch($file);
$me->send('/BOAT/payables/batches/'.$id, ['_token' => $token, '_action' => 'post']);
[$all, $different, $posted] = Rows::all(
    "SELECT COUNT(*), COUNT(DISTINCT their_number), SUM(state = 'posted') FROM document WHERE batch_id = ?",
    $id,
)[0];
printf("a batch of 200: %d there, %d different, %d posted; waited %.1f s\n", $all, $different, $posted, $me->waited);
exit([200, 200, 200] === array_map(intval(...), [$all, $different, $posted]) ? 0 : 1);
