<?php

declare(strict_types=1);

namespace Nelbix\App\Platform\Operate;

use Symfony\Component\DependencyInjection\Attribute\AutowireIterator;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;
use Symfony\Component\Routing\Attribute\Route;

/** For an operator and a proxy: whether this server answers, and counters. Neither asks for a session, neither names anybody. */
final readonly class HealthController
{
    /** @param iterable<Measures> $areas */
    public function __construct(
        private DatabaseReady $database,
        #[AutowireIterator(Measures::class)] private iterable $areas,
    ) {
    }

    /** 200 while this server and its database take work, 503 while they do not: a proxy sends its requests elsewhere then. */
    #[Route('/health', name: 'health', methods: ['GET', 'HEAD'])]
    public function health(): Response
    {
        $ready = $this->database->now();
        $response = new JsonResponse(
            ['status' => $ready ? 'ok' : 'down', 'database' => $ready ? 'ok' : 'away'],
            $ready ? 200 : 503,
        );
        $response->headers->set('Cache-Control', 'no-store');

        return $response;
    }

    /** Prometheus text format 0.0.4; there for this machine alone. */
    #[Route('/metrics', name: 'metrics', methods: ['GET'])]
    public function metrics(Request $request): Response
    {
        if (!\in_array($request->server->get('REMOTE_ADDR'), ['127.0.0.1', '::1'], true)) {
            throw new NotFoundHttpException('There is no such page.');
        }
        $lines = [];
        foreach ($this->areas as $area) {
            foreach ($area->measured() as $m) {
                $lines[$m->name] ??= [
                    \sprintf('# HELP nelbix_%s %s', $m->name, $m->help),
                    \sprintf('# TYPE nelbix_%s %s', $m->name, $m->type),
                ];
                $lines[$m->name][] = \sprintf('nelbix_%s%s %s', $m->name, self::labels($m->labels), $m->value);
            }
        }

        return new Response(implode("\n", array_merge(...array_values($lines)))."\n", 200, [
            'Content-Type' => 'text/plain; version=0.0.4; charset=utf-8',
            'Cache-Control' => 'no-store',
        ]);
    }

    /** @param array<string, string> $labels */
    private static function labels(array $labels): string
    {
        $said = [];
        foreach ($labels as $name => $value) {
            $said[] = $name.'="'.addcslashes($value, "\\\"\n").'"';
        }

        return [] === $said ? '' : '{'.implode(',', $said).'}';
    }
}
