<?php

declare(strict_types=1);

/*
 * Clerks at work over HTTP, with think times: php bench/load.php URL [clients] [seconds] [think] [companies] [digits]. Each client signs
 * in and goes through jobs of its role in random order (seeded): looks, searches, opens, types an invoice with its live panel and posts
 * it. What is measured is how long each page takes, at the count of clients; the ratio is to the page that asks the framework for
 * nothing. See docs/performance.md.
 */
[$base, $clients, $seconds, $think, $companies, $digits] = [
    rtrim($argv[1] ?? 'http://127.0.0.1:8620', '/'),
    (int) ($argv[2] ?? 16),
    (float) ($argv[3] ?? 60),
    (float) ($argv[4] ?? 3.0),
    // they spread over these companies, whose vendors and customers have codes of so many digits
    explode(',', $argv[5] ?? 'BOAT'),
    (int) ($argv[6] ?? 4),
];
mt_srand(16);
const PEOPLE = ['ilves' => 'payables', 'okafor' => 'receivables', 'brandt' => 'controller'];
const EMPTY_PAGE = 'an empty page';

/** One clerk: a job at a time, a request at a time, thinking in between. */
final class Clerk
{
    /** @var non-empty-string */
    public readonly string $jar;
    public readonly string $role;
    private readonly string $user;

    /** @var list<array{string, string, string, ?callable}> name, method, path, fields */
    private array $steps = [];
    private string $page = '';
    private string $form = '';

    public function __construct(int $n, private readonly string $company, private readonly int $digits)
    {
        $this->user = array_keys(PEOPLE)[$n % count(PEOPLE)];
        $this->role = PEOPLE[$this->user];
        $this->jar = tempnam(sys_get_temp_dir(), 'clerk') ?: throw new RuntimeException('no place for cookies');
        $this->steps = [
            ['sign-in page', 'GET', '/sign-in', null],
            [
                'sign in',
                'POST',
                '/sign-in',
                fn (): array => [
                    '_username' => $this->user,
                    '_password' => 'tamarack',
                    '_csrf_token' => $this->field('_csrf_token'),
                ],
            ],
        ];
    }

    /** @return array{string, string, string, ?array<mixed>} the next request */
    public function next(): array
    {
        $jobs = [] === $this->steps ? $this->jobs() : [];
        $steps = [] === $jobs ? $this->steps : $jobs[array_rand($jobs)];
        [$name, $method, $path, $fields] = $steps[0];
        $this->steps = array_slice($steps, 1);
        $path = str_starts_with($path, '@') ? $this->link(substr($path, 1)) : $path;

        return [$name, $method, $path, null === $fields ? null : $fields()];
    }

    public function got(string $page): void
    {
        $this->page = $page;
        // a panel that comes while one types leaves the form as it is
        if (str_contains($page, '<form')) {
            $this->form = $page;
        }
    }

    public function field(string $name): string
    {
        return 1 === preg_match('/name="'.preg_quote($name, '/').'"\s+value="([^"]*)"/', $this->form, $m)
            ? html_entity_decode($m[1])
            : '';
    }

    /** A random link of the page that holds this; the page Today when none does. */
    private function link(string $part): string
    {
        preg_match_all(
            '~(?:href|data-href)="('.preg_quote($this->company, '~').'[^"]*'.$part.'[^"]*)"~',
            $this->page,
            $m,
        );

        return [] === $m[1] ? $this->company : html_entity_decode($m[1][array_rand($m[1])]);
    }

    /** @return list<list<array{string, string, string, ?callable}>> */
    private function jobs(): array
    {
        $side = 'receivables' === $this->role ? 'receivables' : 'payables';
        $at = $this->company.'/'.$side;
        $invoice = fn (): array => [
            '_token' => $this->field('_token'),
            '_key' => $this->field('_key'),
            '_action' => 'post',
            'kind' => 'invoice',
            'party' => sprintf('%s-%0'.$this->digits.'d', 'payables' === $side ? 'V' : 'C', mt_rand(1, 9)),
            'number' => 'payables' === $side ? 'L-'.bin2hex(random_bytes(5)) : '',
            'document_date' => '.',
            'look_alike_reason' => 'another one',
            'lines' => [['account' => 'payables' === $side ? '5000' : '4000', 'amount' => mt_rand(10, 900).'.17']],
        ];
        $jobs = [
            [['today', 'GET', $this->company, null]],
            [['open items', 'GET', $at.'/items', null], ['document', 'GET', '@/document/\d+', null]],
            [['overdue', 'GET', $at.'/items?only=overdue', null], ['document', 'GET', '@/document/\d+', null]],
            [['documents', 'GET', $at.'/documents', null], ['document', 'GET', '@/document/\d+', null]],
            [['search', 'GET', $this->company.'/search?q='.['oak', 'sail', '120.00', 'rope'][mt_rand(0, 3)], null]],
            [['aging', 'GET', $at.'/aging', null], ['aging items', 'GET', '@/aging/items', null]],
            [['parties', 'GET', $at.'/parties', null], ['party', 'GET', '@/party/\d+', null]],
            [
                ['invoice form', 'GET', $at.'/invoice', null],
                ['live panel', 'POST', $at.'/invoice/live', $invoice],
                ['live panel', 'POST', $at.'/invoice/live', $invoice],
                ['post an invoice', 'POST', $at.'/invoice', $invoice],
            ],
            [[EMPTY_PAGE, 'GET', '/health', null]],
        ];
        if ('controller' === $this->role) {
            $jobs[] = [['outlook', 'GET', $this->company.'/bank/outlook', null]];
            $jobs[] = [['tie-out', 'GET', $this->company.'/close/tie-out', null]];
            $jobs[] = [['trial balance', 'GET', $this->company.'/close/trial-balance', null]];
        }
        if ('payables' === $side) {
            $jobs[] = [['what is due', 'GET', $this->company.'/payables/proposal', null]];
        }

        return $jobs;
    }
}

$multi = curl_multi_init();
$waiting = []; // clerk => moment of its next request
$busy = [];
$took = [];
$wrong = [];
$clerks = [];
for ($n = 0; $n < $clients; ++$n) {
    $clerks[$n] = new Clerk($n, '/'.$companies[$n % count($companies)], $digits);
    $waiting[$n] = microtime(true) + $n * 0.15;
}
$end = microtime(true) + $seconds + $clients * 0.15;
while (microtime(true) < $end || [] !== $busy) {
    foreach ($waiting as $n => $moment) {
        if ($moment > microtime(true) || microtime(true) >= $end) {
            continue;
        }
        unset($waiting[$n]);
        [$name, $method, $path, $fields] = $clerks[$n]->next();
        $handle = curl_init($base.$path);
        curl_setopt_array($handle, [
            CURLOPT_RETURNTRANSFER => true,
            CURLOPT_COOKIEJAR => $clerks[$n]->jar,
            CURLOPT_COOKIEFILE => $clerks[$n]->jar,
            CURLOPT_PRIVATE => (string) $n,
            CURLOPT_TIMEOUT => 120,
        ]);
        if ('POST' === $method) {
            curl_setopt($handle, CURLOPT_POST, true);
            curl_setopt($handle, CURLOPT_POSTFIELDS, http_build_query($fields ?? []));
        }
        curl_multi_add_handle($multi, $handle);
        $busy[$n] = [$name, $handle];
    }
    curl_multi_exec($multi, $running);
    curl_multi_select($multi, 0.02);
    while (false !== ($done = curl_multi_info_read($multi))) {
        $n = (int) curl_getinfo($done['handle'], CURLINFO_PRIVATE);
        $status = (int) curl_getinfo($done['handle'], CURLINFO_RESPONSE_CODE);
        [$name] = $busy[$n];
        $took[$name][] = 1000 * curl_getinfo($done['handle'], CURLINFO_TOTAL_TIME);
        if ($status >= 400 || 0 === $status) {
            $wrong[$name.' '.$status] = ($wrong[$name.' '.$status] ?? 0) + 1;
        }
        $clerks[$n]->got((string) curl_multi_getcontent($done['handle']));
        // what a browser does with its answer: the cookies are written when the handle goes
        curl_multi_remove_handle($multi, $done['handle']);
        curl_close($done['handle']);
        unset($busy[$n]);
        $waiting[$n] = microtime(true) + $think * (0.5 + mt_rand() / mt_getrandmax());
    }
}
foreach ($clerks as $clerk) {
    @unlink($clerk->jar);
}
$at = static function (array $times, float $share): float {
    sort($times);

    return $times[(int) max(0, ceil($share * count($times)) - 1)];
};
$empty = $at($took[EMPTY_PAGE] ?? [1.0], 0.5);
printf(
    "%d clients, %d requests in %d s, thinking %.1f s\n",
    $clients,
    array_sum(array_map('count', $took)),
    $seconds,
    $think,
);
printf("%-16s %6s %8s %8s %8s %7s\n", 'page', 'n', 'p50 ms', 'p95 ms', 'p99 ms', 'ratio');
ksort($took);
foreach ($took as $name => $times) {
    printf(
        "%-16s %6d %8.0f %8.0f %8.0f %7.1f\n",
        $name,
        count($times),
        $at($times, 0.5),
        $at($times, 0.95),
        $at($times, 0.99),
        $at($times, 0.5) / $empty,
    );
}
$all = array_merge(...array_values($took));
printf("%-16s %6d %8.0f %8.0f %8.0f\n", 'all', count($all), $at($all, 0.5), $at($all, 0.95), $at($all, 0.99));
foreach ($wrong as $what => $count) {
    echo $what, ': ', $count, " times\n";
}
