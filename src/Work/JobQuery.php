<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Desk;

/**
 * Reads the job table for pages.
 *
 * @phpstan-type Row array{id: int, kind: string, subject_id: int, title: string, state: JobState, done: int, total: int, said: string, by: string, created_at: string, ended_at: ?string, route: string}
 */
final readonly class JobQuery
{
    public function __construct(
        private Connection $db,
        private Kinds $kinds,
    ) {
    }

    /** @return Row|null the newest job on a record */
    public function last(string $kind, int $subjectId): ?array
    {
        return $this->rows('j.kind = ? AND j.subject_id = ?', [$kind, $subjectId], 1)[0] ?? null;
    }

    /** @return list<Row> the newest first, of those that the person may see */
    public function of(Desk $desk, int $limit = 100): array
    {
        return array_values(array_filter($this->rows('j.company_id = ?', [$desk->id()], $limit), fn (array $r): bool => $desk->may($this->kinds->of($r['kind'])->seenWith())));
    }

    /** @return Row|null one of those that the person may see */
    public function one(Desk $desk, int $id): ?array
    {
        $job = $this->rows('j.company_id = ? AND j.id = ?', [$desk->id(), $id], 1)[0] ?? null;

        return null !== $job && $desk->may($this->kinds->of($job['kind'])->seenWith()) ? $job : null;
    }

    /**
     * @param list<int|string> $values
     *
     * @return list<Row>
     */
    private function rows(string $where, array $values, int $limit): array
    {
        $rows = [];
        foreach ($this->db->fetchAllAssociative("SELECT j.id, j.kind, j.subject_id, j.title, j.state, j.done, j.total, j.said, u.name AS by_name, j.created_at, j.ended_at FROM job j JOIN app_user u ON u.id = j.user_id WHERE $where ORDER BY j.id DESC LIMIT $limit", $values) as $r) {
            $rows[] = [
                'id' => (int) $r['id'], 'kind' => (string) $r['kind'], 'subject_id' => (int) $r['subject_id'], 'title' => (string) $r['title'], 'state' => JobState::from((string) $r['state']), 'done' => (int) $r['done'], 'total' => (int) $r['total'],
                'said' => (string) $r['said'], 'by' => (string) $r['by_name'], 'created_at' => (string) $r['created_at'], 'ended_at' => null === $r['ended_at'] ? null : (string) $r['ended_at'], 'route' => $this->kinds->of((string) $r['kind'])->route(),
            ];
        }

        return $rows;
    }
}
