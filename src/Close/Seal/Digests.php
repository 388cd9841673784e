<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Seal;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\HistoryPacks;

/** The digests of records, and the links of their chain. SHA-256, FIPS 180-4. */
final readonly class Digests
{
    public function __construct(private Connection $db, private HistoryPacks $packs)
    {
    }

    /**
     * @param list<int> $ids
     *
     * @return array<int, string> 32 bytes by id; none for a record that is not there
     */
    public function of(SealedKind $kind, array $ids): array
    {
        if ([] === $ids) {
            return [];
        }
        $content = [];
        foreach ($kind->content() as $query => $sql) {
            foreach ($this->db->fetchAllNumeric($sql, [$ids], [ArrayParameterType::INTEGER]) as $row) {
                $content[(int) $row[0]][$query][] = array_map(
                    static fn (mixed $v): ?string => null === $v ? null : (string) $v,
                    $row,
                );
            }
        }

        if (SealedKind::History === $kind) {
            // what was packed is what it was
            foreach ($this->packs->entries(array_values(array_diff($ids, array_keys($content)))) as $id => $entry) {
                $content[$id] = [[$entry]];
            }
        }

        return array_map(
            static fn (array $rows): string => hash(
                'sha256',
                json_encode($rows, \JSON_THROW_ON_ERROR | \JSON_UNESCAPED_UNICODE),
                true,
            ),
            // lines without their record are a record that is not there
            array_filter($content, static fn (array $rows): bool => isset($rows[0])),
        );
    }

    /** The link that comes after another one. */
    public static function link(string $before, int $n, SealedKind $kind, int $id, string $digest): string
    {
        return hash('sha256', $before.pack('J', $n).$kind->value."\0".pack('J', $id).$digest, true);
    }

    /** What the first link of a company comes after. */
    public static function start(int $companyId): string
    {
        return hash('sha256', 'Nelbix '.$companyId, true);
    }
}
