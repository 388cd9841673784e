<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Operate\Measured;
use Nelbix\App\Platform\Operate\Measures;
use Psr\Clock\ClockInterface;

/** How long the queue of long work is, and how old. */
final readonly class WorkMeasures implements Measures
{
    public function __construct(private Connection $db, private ClockInterface $clock)
    {
    }

    public function measured(): iterable
    {
        $oldest = null;
        foreach ($this->queue() as [$state, $count, $since]) {
            yield new Measured('jobs', 'Long work that waits or is under way.', Measured::GAUGE, $count, [
                'state' => $state,
            ]);
            $oldest = null === $oldest ? $since : min($oldest, $since);
        }
        yield new Measured(
            'job_oldest_seconds',
            'Age of the oldest long work that waits or is under way.',
            Measured::GAUGE,
            null === $oldest ? 0 : $this->age($oldest),
        );
    }

    /** @return list<array{string, int, string}> state, how many, since when the oldest */
    private function queue(): array
    {
        return array_map(
            static fn (array $r): array => [(string) $r[0], (int) $r[1], (string) $r[2]],
            $this->db->fetchAllNumeric(
                'SELECT state, COUNT(*), MIN(created_at) FROM job WHERE ended_at IS NULL GROUP BY state',
            ),
        );
    }

    private function age(string $since): int
    {
        return max(0, $this->clock->now()->getTimestamp() - (new \DateTimeImmutable($since))->getTimestamp());
    }
}
