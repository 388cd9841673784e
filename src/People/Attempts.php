<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\Connection;
use Psr\Clock\ClockInterface;

/**
 * Counts tries within a span that begins with the first of them. Each is counted in one statement before it is judged, so that of many at
 * the same moment no more are judged than one after the other. Call outside a transaction: what is rolled back is not counted.
 */
final readonly class Attempts
{
    public function __construct(private Connection $db, private ClockInterface $clock)
    {
    }

    /**
     * @param string $of what is tried, by whom; only its hash is kept
     *
     * @return array{n: int, until: int} which try this is, and when the span ends, seconds since 1970
     */
    public function count(string $of, int $seconds): array
    {
        $now = $this->clock->now()->getTimestamp();
        $id = hash('sha256', $of, true);
        $this->db->executeStatement(
            <<<'SQL'
            INSERT INTO attempt (id, n, until_at)
            VALUES (:id, LAST_INSERT_ID(1), :until)
            ON DUPLICATE KEY UPDATE n = LAST_INSERT_ID(IF(until_at <= :now, 1, n + 1)), until_at = IF(until_at <= :now, :until, until_at)
            SQL
            ,
            ['id' => $id, 'until' => $now + $seconds, 'now' => $now],
        );
        $row = $this->db->fetchNumeric('SELECT LAST_INSERT_ID(), until_at FROM attempt WHERE id = ?', [$id]);

        return ['n' => (int) ($row[0] ?? 1), 'until' => (int) ($row[1] ?? $now + $seconds)];
    }

    /** Whether this try is still one of so many. */
    public function allows(string $of, int $most, int $seconds): bool
    {
        return $this->count($of, $seconds)['n'] <= $most;
    }

    /** It was right: the tries before it do not count any more. */
    public function forget(string $of): void
    {
        $this->db->executeStatement('DELETE FROM attempt WHERE id = ?', [hash('sha256', $of, true)]);
    }

    /** This one does not count; those before it do. */
    public function giveBack(string $of): void
    {
        $this->db->executeStatement('UPDATE attempt SET n = n - 1 WHERE id = ? AND n > 0', [hash('sha256', $of, true)]);
    }
}
