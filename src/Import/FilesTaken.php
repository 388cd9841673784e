<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\Exception\UniqueConstraintViolationException;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Which files were taken over, by what is in them: what was posted from a file once is not posted from it again without a word. */
final readonly class FilesTaken
{
    public function __construct(private Connection $db, private ClockInterface $clock)
    {
    }

    /** @return string|null when and by whom, in words; null for a file that is new here */
    public function before(Actor $actor, string $kind, string $bytes): ?string
    {
        $row = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT t.taken_at, t.records, u.name, l.id AS lot
            FROM file_taken t
            JOIN app_user u ON u.id = t.taken_by_id
            LEFT JOIN posting_lot l ON l.taken_id = t.id AND l.company_id = t.company_id AND l.ended_at IS NULL
            WHERE t.company_id = ? AND t.digest = ? AND t.kind = ?
            ORDER BY t.round DESC
            LIMIT 1
            SQL
            ,
            [$actor->companyId, self::digest($bytes), $kind],
        );

        return false === $row
            ? null
            : \sprintf(
                match (true) {
                    null !== $row['lot'] => 'This very file was begun on %s by %s and is not through; go on with it, '.
                        'or take it back, under Import.',
                    null === $row['records'] => 'This very file was begun on %s by %s, and whether it was taken over is not known.',
                    default => 'This very file was taken over on %s by %s.',
                },
                Day::of(substr((string) $row['taken_at'], 0, 10))->long(),
                $row['name'],
            );
    }

    /**
     * @param bool $again the same file once more is meant
     *
     * @throws Refused asking whether it is meant once more
     */
    public function mustBeNew(Actor $actor, string $kind, string $bytes, bool $again): void
    {
        $before = $again ? null : $this->before($actor, $kind, $bytes);
        if (null !== $before) {
            throw self::asking($before);
        }
    }

    /**
     * @param bool $again the same file once more is meant
     *
     * @return int what ends it
     *
     * @throws Refused asking whether it is meant once more
     */
    public function claim(Actor $actor, string $kind, string $bytes, bool $again): int
    {
        $this->mustBeNew($actor, $kind, $bytes, $again);

        return $this->begin($actor, $kind, $bytes) ??
            throw self::asking('Somebody else takes this very file over just now.');
    }

    private static function asking(string $what): Refused
    {
        return Refused::all([
            new Problem('', $what.' Say that it is meant once more, or leave it.', 1, ProblemKind::Asks),
        ]);
    }

    /** @return int|null what ends it; null when somebody else is at it, or was, since it was looked at */
    private function begin(Actor $actor, string $kind, string $bytes): ?int
    {
        $known = [$actor->companyId, self::digest($bytes), $kind];
        $round = (int) $this->db->fetchOne(
            'SELECT MAX(round) FROM file_taken WHERE company_id = ? AND digest = ? AND kind = ?',
            $known,
        );
        try {
            $this->db->executeStatement(
                'INSERT INTO file_taken (company_id, digest, kind, round, taken_by_id, taken_at) VALUES (?, ?, ?, ?, ?, ?)',
                [...$known, $round + 1, $actor->userId, $this->clock->now()->format('Y-m-d H:i:s')],
            );
        } catch (UniqueConstraintViolationException) {
            return null;
        }

        return (int) $this->db->lastInsertId();
    }

    /** @param int|null $records null when nothing was taken over */
    public function end(int $id, ?int $records): void
    {
        null === $records
            ? $this->db->executeStatement('DELETE FROM file_taken WHERE id = ?', [$id])
            : $this->db->executeStatement('UPDATE file_taken SET records = ? WHERE id = ?', [$records, $id]);
    }

    private static function digest(string $bytes): string
    {
        return hash('sha256', $bytes, true);
    }
}
