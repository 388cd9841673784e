<?php

declare(strict_types=1);

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
