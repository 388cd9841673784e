<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Doctrine\DBAL\ParameterType;

/**
 * History of years ago, packed: what nobody looks at every day does not make the table grow for ever, and stays in the database with the
 * rest, to be read of a record as before, and by the seal.
 *
 * A packed entry has the columns of COLUMNS, as text.
 *
 * @phpstan-type PackedEntry array{string, string, string, string, string, string, string}
 */
final readonly class HistoryPacks
{
    /** What is kept of an entry, the same and in the same order as the seal has it. */
    public const COLUMNS = 'id, subject, subject_id, action, detail, user_id, happened_at';

    public function __construct(private Connection $db)
    {
    }

    /**
     * Packs entries and takes them out of the table. Call inside a transaction.
     *
     * @param list<PackedEntry> $entries in order of their ids
     *
     * @return bool false when somebody else took one of them meanwhile, and nothing is done
     */
    public function put(int $companyId, array $entries): bool
    {
        if ([] === $entries) {
            return false;
        }
        $ids = array_map(static fn (array $e): int => (int) $e[0], $entries);
        $there = $this->db->fetchFirstColumn(
            'SELECT id FROM history WHERE id IN (?) FOR UPDATE',
            [$ids],
            [ArrayParameterType::INTEGER],
        );
        if (\count($there) !== \count($ids)) {
            return false;
        }
        $at = array_map(static fn (array $e): string => $e[6], $entries);
        $this->db->executeStatement(
            <<<'SQL'
            INSERT INTO history_pack (company_id, first_id, last_id, first_at, last_at, entries, content) VALUES (?, ?, ?, ?, ?, ?, ?)
            SQL
            ,
            [$companyId, min($ids), max($ids), min($at), max($at), \count($ids), self::packed($entries)],
            [6 => ParameterType::LARGE_OBJECT],
        );
        $pack = (int) $this->db->lastInsertId();
        $this->db->executeStatement(
            'INSERT INTO history_packed (company_id, subject, subject_id, pack_id) '.
                'SELECT DISTINCT company_id, subject, subject_id, ? FROM history WHERE id IN (?)',
            [$pack, $ids],
            [1 => ArrayParameterType::INTEGER],
        );
        $this->db->executeStatement('DELETE FROM history WHERE id IN (?)', [$ids], [ArrayParameterType::INTEGER]);

        return true;
    }

    /**
     * @param list<int> $ids of entries
     *
     * @return array<int, PackedEntry> those of them that are packed, by id
     */
    public function entries(array $ids): array
    {
        if ([] === $ids) {
            return [];
        }
        $found = [];
        $wanted = array_flip($ids);
        foreach (
            $this->db->fetchFirstColumn('SELECT content FROM history_pack WHERE last_id >= ? AND first_id <= ?', [
                min($ids),
                max($ids),
            ]) as $content
        ) {
            foreach (self::unpacked((string) $content) as $entry) {
                if (isset($wanted[(int) $entry[0]])) {
                    $found[(int) $entry[0]] = $entry;
                }
            }
        }

        return $found;
    }

    /** @return \Generator<PackedEntry> all of a company between two days, the oldest first; days as ISO, empty for no bound */
    public function between(int $companyId, string $from, string $to): \Generator
    {
        $packs = $this->db->fetchFirstColumn(
            <<<'SQL'
            SELECT id FROM history_pack
            WHERE company_id = :company AND (:from = '' OR last_at >= :from) AND (:to = '' OR first_at < :to + INTERVAL 1 DAY)
            ORDER BY first_id
            SQL
            ,
            ['company' => $companyId, 'from' => $from, 'to' => $to],
        );
        foreach ($packs as $pack) {
            $content = (string) $this->db->fetchOne('SELECT content FROM history_pack WHERE id = ?', [$pack]);
            foreach (self::unpacked($content) as $entry) {
                $day = substr($entry[6], 0, 10);
                if (('' === $from || $day >= $from) && ('' === $to || $day <= $to)) {
                    yield $entry;
                }
            }
        }
    }

    /** @return string|null the last day of what is packed, ISO; null when nothing is */
    public function through(int $companyId): ?string
    {
        $last = $this->db->fetchOne('SELECT MAX(last_at) FROM history_pack WHERE company_id = ?', [$companyId]);

        return \is_string($last) ? substr($last, 0, 10) : null;
    }

    /** @return list<PackedEntry> none when the bytes are not what was packed */
    public static function unpacked(string $content): array
    {
        $json = @gzinflate($content);
        $entries = false === $json ? null : json_decode($json, true);

        /** @var list<PackedEntry> */
        return \is_array($entries) ? $entries : [];
    }

    /** @param list<PackedEntry> $entries */
    private static function packed(array $entries): string
    {
        return (string) gzdeflate(json_encode($entries, \JSON_THROW_ON_ERROR | \JSON_UNESCAPED_UNICODE), 6);
    }
}
