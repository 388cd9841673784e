<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\CompanySettings;
use Psr\Clock\ClockInterface;
use Symfony\Component\HttpFoundation\Request;

/** Where people are signed in. A presence that has ended, or was left alone too long, opens nothing any more. */
final readonly class Presences
{
    /** Seconds after which it is written down again that somebody is there. */
    private const NOTED_EVERY = 60;

    public function __construct(private Connection $db, private ClockInterface $clock)
    {
    }

    /** @param bool $confirmed false while the second factor is still to come */
    public function begin(int $userId, ?Request $request, bool $confirmed): int
    {
        $now = $this->now();
        $this->db->insert('presence', [
            'user_id' => $userId,
            'begun_at' => $now,
            'seen_at' => $now,
            'confirmed' => (int) $confirmed,
            ...SignIns::from($request),
        ]);

        return (int) $this->db->lastInsertId();
    }

    /** What a request of a presence may do, and whether the person stands in for somebody, in one query because every request asks. */
    public function at(int $id, int $userId): Presence
    {
        $row = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT p.seen_at, p.ended_at, p.confirmed, (
                SELECT MIN(CAST(s.value AS UNSIGNED))
                FROM membership m
                JOIN setting s ON s.company_id = m.company_id AND s.name = 'idle_minutes'
                WHERE m.user_id = p.user_id
            ) AS idle, EXISTS (SELECT 1 FROM substitute s WHERE s.deputy_id = p.user_id AND s.ended = 0) AS deputy
            FROM presence p
            WHERE p.id = ? AND p.user_id = ?
            SQL
            ,
            [$id, $userId],
        );
        if (false === $row || null !== $row['ended_at']) {
            return new Presence(PresenceState::Ended);
        }
        $alone = $this->clock->now()->getTimestamp() - (int) strtotime($row['seen_at'].' UTC');
        if ($alone > 60 * (int) ($row['idle'] ?? CompanySettings::DEFAULTS['idle_minutes'])) {
            $this->end($id);

            return new Presence(PresenceState::LeftAlone);
        }
        if ($alone >= self::NOTED_EVERY) {
            $this->db->executeStatement('UPDATE presence SET seen_at = ? WHERE id = ?', [$this->now(), $id]);
        }

        return new Presence($row['confirmed'] ? PresenceState::There : PresenceState::HalfWay, (bool) $row['deputy']);
    }

    public function confirm(int $id): void
    {
        $this->db->executeStatement('UPDATE presence SET confirmed = 1 WHERE id = ?', [$id]);
    }

    public function end(int $id): void
    {
        $this->db->executeStatement('UPDATE presence SET ended_at = ? WHERE id = ? AND ended_at IS NULL', [
            $this->now(),
            $id,
        ]);
    }

    /** Signs somebody out everywhere, or everywhere else. */
    public function endAll(int $userId, int $except = 0): int
    {
        return (int) $this->db->executeStatement(
            'UPDATE presence SET ended_at = ? WHERE user_id = ? AND id <> ? AND ended_at IS NULL',
            [$this->now(), $userId, $except],
        );
    }

    /** @return list<array<string, mixed>> id, begun_at, seen_at, address, agent; the latest first */
    public function of(int $userId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT id, begun_at, seen_at, address, agent
            FROM presence
            WHERE user_id = ? AND ended_at IS NULL AND confirmed = 1
            ORDER BY seen_at DESC
            LIMIT 20
            SQL
            ,
            [$userId],
        );
    }

    private function now(): string
    {
        return $this->clock->now()->format('Y-m-d H:i:s');
    }
}
