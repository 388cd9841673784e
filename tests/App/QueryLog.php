<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Psr\Log\AbstractLogger;

/** The statements that the database was sent while somebody listened. */
final class QueryLog extends AbstractLogger
{
    /** @var list<array{sql: string, with: list<mixed>}>|null */
    private ?array $heard = null;

    /** @param array<mixed> $context as the middleware gives it */
    public function log(mixed $level, string|\Stringable $message, array $context = []): void
    {
        if (null !== $this->heard && isset($context['sql'])) {
            $with = \is_array($context['params'] ?? null) ? $context['params'] : [];
            ksort($with);
            $this->heard[] = ['sql' => (string) $context['sql'], 'with' => array_values($with)];
        }
    }

    /**
     * @param callable(): mixed $action
     *
     * @return list<array{sql: string, with: list<mixed>}> what it asked
     */
    public function during(callable $action): array
    {
        $this->heard = [];
        try {
            $action();

            return $this->heard;
        } finally {
            $this->heard = null;
        }
    }
}
