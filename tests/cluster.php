<?php

declare(strict_types=1);

/*
 * What people do while tests/cluster kills a node: "clerks COUNT EACH SERVERS" posts invoices through all servers, asking again with the
 * same form when nobody answered; "run MADE FILE SERVERS" approves, prints and posts a payment run and makes FILE when it is under way;
 * "batch FILE SERVERS" keeps 200 rows as drafts of a batch, makes FILE and posts it whole; "races ROUNDS CONSOLE A B" lets two servers,
 * each at a node of its own, do at once what must not both happen.
 */

/** Somebody at a browser, who goes to the other server when one does not answer. */
final class Somebody
{
    /** @var non-empty-string */
    private readonly string $jar;
    private int $server;

    /** @var list<string> */
    private array $headers = [];

    /** The longest that anybody waited for an answer, in seconds. */
    public float $waited = 0.0;

    /** @param list<string> $servers */
    public function __construct(private readonly array $servers, string $user, int $n)
    {
        $this->jar = tempnam(sys_get_temp_dir(), 'somebody') ?: throw new RuntimeException('no place for cookies');
        $this->server = $n % count($servers);
        $page = $this->page('/sign-in');
        $this->send('/sign-in', [
            '_username' => $user,
            '_password' => 'tamarack',
            '_csrf_token' => self::field($page, '_csrf_token'),
        ]);
    }

    public function page(string $path): string
    {
        return $this->until($path, null, [200])[1];
    }

    /**
     * @param array<mixed> $fields
     *
     * @return array{int, string} status and body of the answer to the change; an answer of 5xx, or none, is asked for again
     */
    public function send(string $path, array $fields): array
    {
        return $this->until($path, $fields, [200, 302, 303, 422]);
    }

    /**
     * @param array<mixed> $data sent as JSON
     *
     * @return array{int, string}
     */
    public function json(string $path, array $data, string $token): array
    {
        $this->headers = ['Content-Type: application/json', 'X-Token: '.$token];
        try {
            return $this->until($path, json_encode($data, JSON_THROW_ON_ERROR), [200, 422]);
        } finally {
            $this->headers = [];
        }
    }

    public static function field(string $page, string $name, bool $last = false): string
    {
        preg_match_all('/name="'.preg_quote($name, '/').'"[^>]*?value="([^"]*)"/s', $page, $m);

        return [] === $m[1] ? '' : html_entity_decode($last ? $m[1][count($m[1]) - 1] : $m[1][0]);
    }

    /**
     * @param array<mixed>|string|null $fields
     * @param list<int> $good
     *
     * @return array{int, string}
     */
    private function until(string $path, array|string|null $fields, array $good): array
    {
        $since = microtime(true);
        do {
            [$status, $body] = $this->ask($path, $fields);
            if (in_array($status, $good, true)) {
                $this->waited = max($this->waited, microtime(true) - $since);

                return [$status, $body];
            }
            $this->server = ($this->server + 1) % count($this->servers);
            usleep(200_000);
        } while (microtime(true) - $since < 90);
        fwrite(STDERR, "nobody answered $path: $status\n".substr(strip_tags($body), 0, 400)."\n");
        exit(1);
    }

    /**
     * @param array<mixed>|string|null $fields
     *
     * @return array{int, string}
     */
    private function ask(string $path, array|string|null $fields): array
    {
        $handle = curl_init($this->servers[$this->server].$path);
        assert(false !== $handle);
        curl_setopt_array($handle, [
            CURLOPT_RETURNTRANSFER => true,
            CURLOPT_COOKIEJAR => $this->jar,
            CURLOPT_COOKIEFILE => $this->jar,
            CURLOPT_TIMEOUT => 30,
        ]);
        if (null !== $fields) {
            curl_setopt($handle, CURLOPT_POSTFIELDS, is_array($fields) ? http_build_query($fields) : $fields);
            curl_setopt($handle, CURLOPT_HTTPHEADER, $this->headers);
        }
        $body = (string) curl_exec($handle);
        $status = (int) curl_getinfo($handle, CURLINFO_RESPONSE_CODE);
        curl_close($handle);

        return [$status, $body];
    }
}

$url = (parse_url((string) getenv('NELBIX_DATABASE_URL')) ?: []) + [
    'host' => '',
    'port' => 0,
    'user' => '',
    'pass' => '',
];
$database = static function (string $sql, array $with = []) use ($url): array {
    for ($try = 0;; ++$try) {
        try {
            $pdo = new PDO("mysql:host={$url['host']};port={$url['port']};dbname=nelbix", $url['user'], $url['pass']);
            $statement = $pdo->prepare($sql);
            $statement->execute($with);

            return $statement->fetchAll(PDO::FETCH_NUM);
        } catch (PDOException $e) {
            if ($try > 60) {
                throw $e;
            }
            usleep(500_000);
        }
    }
};
[, $what] = $argv;
if ('clerks' === $what) {
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
    $there = $database(
        "SELECT COUNT(*), COUNT(DISTINCT their_number) FROM document WHERE their_number LIKE 'CLUSTER-%' AND state = 'posted'",
    )[0];
    $gaps = $database(
        "SELECT MAX(CAST(SUBSTRING_INDEX(number, '-', -1) AS UNSIGNED)) - COUNT(*) FROM document WHERE company_id = ".
            "(SELECT id FROM company WHERE code = 'BOAT') AND number LIKE 'VI-26-%'",
    )[0][0];
    printf(
        "%d clerks posted %d invoices, %d there, %d of them different; the longest wait %.1f s\n",
        $count,
        $count * $each,
        $there[0],
        $there[1],
        $waited,
    );
    exit(
        0 === $bad && $count * $each === (int) $there[0] && $there[0] === $there[1] && 0 === (int) $gaps && $waited < 20
            ? 0
            : 1
    );
}
if ('batch' === $what) {
    [$file, $servers] = [$argv[2], array_slice($argv, 3)];
    $me = new Somebody($servers, 'ilves', 0);
    $token = Somebody::field($me->page('/BOAT/payables/batches'), '_token', true);
    $me->send('/BOAT/payables/batches/open', [
        '_token' => $token,
        'name' => 'cluster',
        'posting_date' => '12 Jun 2026',
    ]);
    $id = (int) $database("SELECT MAX(id) FROM batch WHERE name = 'cluster'")[0][0];
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
    [$all, $different, $posted] = $database(
        "SELECT COUNT(*), COUNT(DISTINCT their_number), SUM(state = 'posted') FROM document WHERE batch_id = ?",
        [$id],
    )[0];
    printf(
        "a batch of 200: %d there, %d different, %d posted; waited %.1f s\n",
        $all,
        $different,
        $posted,
        $me->waited,
    );
    exit([200, 200, 200] === array_map(intval(...), [$all, $different, $posted]) ? 0 : 1);
}
if ('races' === $what) {
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
    $one = static fn (string $sql, array $with = []): int => (int) $database($sql, $with)[0][0];
    [$controller, $approver] = [new Somebody([$servers[0]], 'brandt', 0), new Somebody([$servers[0]], 'soto', 0)];
    $clerks = array_map(static fn (int $n): Somebody => new Somebody([$servers[$n % 2]], 'ilves', 0), range(0, 5));

    // a period is locked while invoices are posted into it: none comes after the lock
    $period = $one(
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
            static function () use ($lock, $one, $counted, $seen, $round): void {
                usleep(20_000 * ($round % 6));
                $lock('open');
                file_put_contents($seen, (string) $one($counted));
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
        if (1 !== $one('SELECT payables_locked FROM period WHERE id = ?', [$period]) || $then !== $one($counted)) {
            fwrite(STDERR, "round $round: $then were posted when the period was locked, then ".$one($counted)."\n");
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
        $made = json_decode((string) shell_exec($console), true);
        $id = $one(
            "SELECT p.id FROM proposal p JOIN company c ON c.id = p.company_id WHERE c.code = 'BOAT' AND p.number = ?",
            [(string) ($made['saved'] ?? '')],
        );
        $item = $one('SELECT MIN(item_id) FROM proposal_line WHERE proposal_id = ? AND is_in = 1 AND dropped = 0', [
            $id,
        ]);
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
            static fn (): array => $clerk->send($at.'/items', [
                '_token' => $token,
                '_action' => 'drop',
                'items' => [$item],
            ]),
        );
        $is = $one("SELECT state = 'approved' FROM proposal WHERE id = ?", [$id]);
        $dropped = $one('SELECT COUNT(*) FROM proposal_line WHERE proposal_id = ? AND dropped = 1', [$id]);
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
    exit(0);
}
[$made, $file, $servers] = [json_decode($argv[2], true), $argv[3], array_slice($argv, 4)];
[[$id]] = $database(
    'SELECT id FROM proposal WHERE number = ? AND company_id = (SELECT id FROM company WHERE code = ?)',
    [$made['saved'], 'BOAT'],
);
$at = '/BOAT/payables/proposal/'.$id;
$token = static fn (string $page): string => Somebody::field($page, '_token', true);
$approver = new Somebody($servers, 'soto', 0);
$page = $approver->page($at);
$approver->send($at.'/decide', [
    '_token' => $token($page),
    '_action' => 'approve',
    '_version' => Somebody::field($page, '_version'),
]);
$clerk = new Somebody($servers, 'ilves', 1);
$page = $clerk->page($at);
preg_match('/<select[^>]*name="check_book".*?value="(\d+)"/s', $page, $book);
$clerk->send($at.'/print', [
    '_token' => $token($page),
    'check_book' => $book[1] ?? '',
    'first_number' => Somebody::field($page, 'first_number'),
]);
$clerk->send($at.'/printed', ['_token' => $token($clerk->page($at))]);
$clerk->send($at.'/post', ['_token' => $token($clerk->page($at))]);
$posted = static fn (): int => (int) $database('SELECT COUNT(*) FROM document WHERE proposal_id = ?', [$id])[0][0];
for ($n = 0; $n < 300 && 0 === $posted(); ++$n) {
    usleep(50_000);
}
touch($file);
$state = '';
for ($n = 0; $n < 240; ++$n) {
    $state = (string) $database('SELECT state FROM proposal WHERE id = ?', [$id])[0][0];
    if ('posted' === $state) {
        break;
    }
    usleep(500_000);
}
printf("%d payments, %d posted, the run is %s\n", count($made['payments']), $posted(), $state);
exit('posted' === $state && count($made['payments']) === $posted() ? 0 : 1);
