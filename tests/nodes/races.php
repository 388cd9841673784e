<?php

declare(strict_types=1);

/* "ROUNDS CONSOLE A B": two servers, each at a node of its own, do at once what must not both happen. */
[$rounds, $console, $servers] = [(int) $argv[2], $argv[3], array_slice($argv, 4)];
// every one begins in the same moment, each at the server that is named first
$together = static function (callable ...$doers): void {
    $at = microtime(true) + 0.3;
    $children = [];
    foreach ($doers as $do) {
        $child = pcntl_fork();
        if (0 === $child) {
            usleep((int) max(0, 1e6 * ($at - microtime(true))));
            $do();
            exit(0);
        }
        $children[] = $child;
    }
    foreach ($children as $child) {
        pcntl_waitpid($child, $status);
        if (0 !== $status) {
            exit(1);
        }
    }
};
$proposed = static fn (string $options): PaymentRun => new PaymentRun(
    (string) (json_decode((string) shell_exec($console.' '.$options), true)['saved'] ?? ''),
);
[$controller, $approver] = [new Somebody([$servers[0]], 'brandt', 0), new Somebody([$servers[0]], 'soto', 0)];
$clerks = array_map(static fn (int $n): Somebody => new Somebody([$servers[$n % 2]], 'ilves', 0), range(0, 5));

// a period is locked while invoices are posted into it: none comes after the lock
$period = Rows::one(
    "SELECT p.id FROM period p JOIN company c ON c.id = p.company_id WHERE c.code = 'BOAT' AND p.first_day = '2026-06-01'",
);
$counted = "SELECT COUNT(*) FROM document WHERE their_number LIKE 'RACE-%' AND state = 'posted'";
$posted = 0;
for ($round = 0; $round < $rounds; ++$round) {
    $forms = array_map(static fn (Somebody $s): string => $s->page('/BOAT/payables/invoice'), $clerks);
    $token = Somebody::field($controller->page('/BOAT/close?period='.$period), '_token', true);
    $lock = static fn (string $is): array => $controller->send('/BOAT/close/lock', [
        '_token' => $token,
        'period' => $period,
        'which' => 'payables',
        'is' => $is,
        'why' => 'race',
    ]);
    $seen = tempnam(sys_get_temp_dir(), 'race') ?: throw new RuntimeException('no place');
    $together(
        static function () use ($lock, $counted, $seen, $round): void {
            usleep(20_000 * ($round % 6));
            $lock('open');
            file_put_contents($seen, (string) Rows::one($counted));
        },
        ...array_map(
            static fn (int $n): callable => static fn (): array => $clerks[$n]->send('/BOAT/payables/invoice', [
                '_token' => Somebody::field($forms[$n], '_token'),
                '_key' => Somebody::field($forms[$n], '_key'),
                '_action' => 'post',
                'kind' => 'invoice',
                'party' => sprintf('V-%04d', 1 + $n),
                'number' => "RACE-$round-$n",
                'document_date' => '12 Jun 2026',
                'look_alike_reason' => 'another one',
                'lines' => [['account' => '5000', 'amount' => '7.'.sprintf('%02d', $n)]],
            ]),
            array_keys($clerks),
        ),
    );
    $then = (int) file_get_contents($seen);
    unlink($seen);
    if (1 !== Rows::one('SELECT payables_locked FROM period WHERE id = ?', $period) || $then !== Rows::one($counted)) {
        fwrite(
            STDERR,
            "round $round: $then were posted when the period was locked, then ".Rows::one($counted)."\n",
        );
        exit(1);
    }
    $posted = $then;
    $lock('locked');
}
printf(
    "a period locked %d times while 6 clerks posted into it: %d of %d before the lock, none after\n",
    $rounds,
    $posted,
    6 * $rounds,
);

// a proposal is approved at one server while the clerk drops a line at the other: what is approved is what was seen
$approved = 0;
for ($round = 0; $round < $rounds; ++$round) {
    $id = $proposed('--due-through=2026-07-31')->id;
    $item = Rows::one(
        'SELECT MIN(item_id) FROM proposal_line WHERE proposal_id = ? AND is_in = 1 AND dropped = 0',
        $id,
    );
    $at = '/BOAT/payables/proposal/'.$id;
    $page = $approver->page($at);
    $clerk = $clerks[1];
    $token = Somebody::field($clerk->page($at), '_token', true);
    $together(
        static fn (): array => $approver->send($at.'/decide', [
            '_token' => Somebody::field($page, '_token', true),
            '_action' => 'approve',
            '_version' => Somebody::field($page, '_version'),
        ]),
        static function () use ($clerk, $at, $token, $item, $round): void {
            usleep(20_000 * ($round % 6));
            $clerk->send($at.'/items', ['_token' => $token, '_action' => 'drop', 'items' => [$item]]);
        },
    );
    $is = Rows::one("SELECT state = 'approved' FROM proposal WHERE id = ?", $id);
    $dropped = Rows::one('SELECT COUNT(*) FROM proposal_line WHERE proposal_id = ? AND dropped = 1', $id);
    if (1 !== $is + $dropped) {
        fwrite(STDERR, "round $round: approved $is, dropped $dropped\n");
        exit(1);
    }
    $approved += $is;
    $clerk->send($at.'/drop', ['_token' => $token]);
}
printf(
    "a proposal approved while a line was dropped, %d times: %d approved as seen, %d changed and not approved\n",
    $rounds,
    $approved,
    $rounds - $approved,
);

// a transfer is voided at one server while its file is made at the other: what the file pays is not void
$void = 0;
for ($round = 0; $round < $rounds; ++$round) {
    $form = $clerks[0]->page('/BOAT/payables/invoice');
    $clerks[0]->send('/BOAT/payables/invoice', [
        '_token' => Somebody::field($form, '_token'),
        '_key' => Somebody::field($form, '_key'),
        '_action' => 'post',
        'kind' => 'invoice',
        'party' => 'V-0007',
        'number' => "VOID-$round",
        'document_date' => '12 Jun 2026',
        'look_alike_reason' => 'another one',
        'lines' => [['account' => '5000', 'amount' => '31.'.sprintf('%02d', $round)]],
    ]);
    $run = $proposed('--due-through=2026-12-31 --vendor=V-0007 --method=transfer');
    $run->approve($approver);
    $run->post($clerks[0]);
    if (!$run->isPosted()) {
        fwrite(STDERR, "round $round: the run is not posted\n");
        exit(1);
    }
    $payment = Rows::one('SELECT MAX(document_id) FROM proposal_payment WHERE proposal_id = ?', $run->id);
    $page = $clerks[0]->page('/BOAT/payables/document/'.$payment);
    $token = Somebody::field($clerks[1]->page('/BOAT/payables/proposal/'.$run->id), '_token', true);
    $together(
        static function () use ($clerks, $payment, $page, $round): void {
            usleep(20_000 * ($round % 3));
            $clerks[0]->send("/BOAT/payables/document/$payment/undo", [
                '_token' => Somebody::field($page, '_token', true),
                '_action' => 'void',
                'date' => '15 Jun 2026',
                'reason' => 'race',
            ]);
        },
        static fn (): array => $clerks[1]->send('/BOAT/bank/files/make', [
            '_token' => $token,
            'run' => $run->id,
            'format' => 'ach',
        ]),
    );
    $filed = Rows::one('SELECT COUNT(*) FROM bank_file_line WHERE document_id = ?', $payment);
    $is = Rows::one("SELECT state = 'reversed' FROM document WHERE id = ?", $payment);
    if (1 !== $filed + $is) {
        fwrite(STDERR, "round $round: in a file $filed, void $is\n");
        exit(1);
    }
    $void += $is;
}
printf(
    "a transfer voided while its file was made, %d times: %d void and in no file, %d in the file and not void\n",
    $rounds,
    $void,
    $rounds - $void,
);
exit(0);
