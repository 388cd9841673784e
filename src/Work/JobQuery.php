<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Desk;

/**
 * Reads the job table for pages.
 *
 * @phpstan-type Row array{id: int, kind: string, subject_id: int, title: string, state: JobState, done: int, total: int, said: string,
 *     options: string, result: ?array<string, mixed>, user_id: int, by: string, created_at: string, ended_at: ?string, route: string}
 */
final readonly class JobQuery
{
    public function __construct(private Connection $db, private Kinds $kinds)
    {
    }

    /** @return Row|null the newest job on a record */
    public function last(string $kind, int $subjectId): ?array
    {
        return $this->rows('j.kind = ? AND j.subject_id = ?', [$kind, $subjectId], 1)[0] ?? null;
    }

    /** @return list<Row> the newest first, of those that the person may see */
    public function of(Desk $desk, int $limit = 100): array
    {
        return array_values(
            array_filter(
                $this->rows('j.company_id = ?', [$desk->id()], $limit),
                fn (array $r): bool => $this->sees($desk, $r),
            ),
        );
    }

    /** @return Row|null one of those that the person may see */
    public function one(Desk $desk, int $id): ?array
    {
        $job = $this->rows('j.company_id = ? AND j.id = ?', [$desk->id(), $id], 1)[0] ?? null;

        return null !== $job && $this->sees($desk, $job) ? $job : null;
    }

    /** @param Row $job */
    private function sees(Desk $desk, array $job): bool
    {
        $with = $this->kinds->of($job['kind'])->seenWith();

        return null === $with ? $job['user_id'] === $desk->actor->userId : $desk->may($with);
    }

    /**
     * @param list<int|string> $values
     *
     * @return list<Row>
     */
    private function rows(string $where, array $values, int $limit): array
    {
        $rows = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT j.id, j.kind, j.subject_id, j.title, j.state, j.done + COALESCE(g.done, 0) AS done, j.total, j.said,
                    j.options, j.result, j.user_id, u.name AS by_name, j.created_at, j.ended_at
                FROM job j
                JOIN app_user u ON u.id = j.user_id
                LEFT JOIN job_progress g ON g.job_id = j.id
                WHERE $where
                ORDER BY j.id DESC
                LIMIT $limit
                SQL
                ,
                $values,
            ) as $r
        ) {
            $rows[] = [
                'id' => (int) $r['id'],
                'kind' => (string) $r['kind'],
                'subject_id' => (int) $r['subject_id'],
                'title' => (string) $r['title'],
                'state' => JobState::from((string) $r['state']),
                'done' => (int) $r['done'],
                'total' => (int) $r['total'],
                'said' => (string) $r['said'],
                'options' => (string) $r['options'],
                'result' => null === $r['result']
                        ? null
                        : (array) json_decode((string) $r['result'], true, 64, \JSON_THROW_ON_ERROR),
                'user_id' => (int) $r['user_id'],
                'by' => (string) $r['by_name'],
                'created_at' => (string) $r['created_at'],
                'ended_at' => null === $r['ended_at'] ? null : (string) $r['ended_at'],
                'route' => $this->kinds->of((string) $r['kind'])->route(),
            ];
        }

        return $rows;
    }
}
