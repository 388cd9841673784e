<?php

declare(strict_types=1);

/*
 * What people do while tests/cluster kills a node: "clerks COUNT EACH SERVERS" posts invoices through all servers, asking again with the
 * same form when nobody answered; "run MADE FILE SERVERS" approves, prints and posts a payment run and makes FILE when it is under way.
 */

/** Somebody at a browser, who goes to the other server when one does not answer. */
final class Somebody
{
    /** @var non-empty-string */
    private readonly string $jar;
    private int $server;

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

    public static function field(string $page, string $name, bool $last = false): string
    {
        preg_match_all('/name="'.preg_quote($name, '/').'"[^>]*?value="([^"]*)"/s', $page, $m);

        return [] === $m[1] ? '' : html_entity_decode($last ? $m[1][count($m[1]) - 1] : $m[1][0]);
    }

    /**
     * @param array<mixed>|null $fields
     * @param list<int> $good
     *
     * @return array{int, string}
     */
    private function until(string $path, ?array $fields, array $good): array
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
     * @param array<mixed>|null $fields
     *
     * @return array{int, string}
     */
    private function ask(string $path, ?array $fields): array
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
            curl_setopt($handle, CURLOPT_POSTFIELDS, http_build_query($fields));
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
