<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\HistoryPacks;

/**
 * What was done to a record, and by whom, for the pages that show it.
 *
 * @phpstan-import-type PackedEntry from HistoryPacks
 */
final readonly class HistoryQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<array{action: string, detail: string, name: string, happened_at: string}> */
    public function of(int $companyId, string $subject, int $id): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT h.id, h.action, h.detail, u.name, h.happened_at, NULL AS content
            FROM history h
            JOIN app_user u ON u.id = h.user_id
            WHERE h.company_id = :company AND h.subject = :subject AND h.subject_id = :id
            UNION ALL
            SELECT 0, '', '', '', k.first_at, k.content
            FROM history_packed x
            JOIN history_pack k ON k.id = x.pack_id
            WHERE x.company_id = :company AND x.subject = :subject AND x.subject_id = :id
            ORDER BY 1, 5
            SQL
            ,
            ['company' => $companyId, 'subject' => $subject, 'id' => $id],
        );
        $said = $old = [];
        foreach ($rows as $row) {
            if (null === $row['content']) {
                $said[] = [
                    'action' => (string) $row['action'],
                    'detail' => (string) $row['detail'],
                    'name' => (string) $row['name'],
                    'happened_at' => (string) $row['happened_at'],
                ];
                continue;
            }
            foreach (HistoryPacks::unpacked((string) $row['content']) as $entry) {
                if ($entry[1] === $subject && (int) $entry[2] === $id) {
                    $old[] = $entry;
                }
            }
        }

        return [] === $old ? $said : [...$this->named($old), ...$said];
    }

    /**
     * @param list<PackedEntry> $entries
     *
     * @return list<array{action: string, detail: string, name: string, happened_at: string}>
     */
    private function named(array $entries): array
    {
        $names = $this->db->fetchAllKeyValue(
            'SELECT id, name FROM app_user WHERE id IN (?)',
            [array_map(static fn (array $e): int => (int) $e[5], $entries)],
            [ArrayParameterType::INTEGER],
        );

        return array_map(
            static fn (array $e): array => [
                'action' => $e[3],
                'detail' => $e[4],
                'name' => (string) ($names[(int) $e[5]] ?? ''),
                'happened_at' => $e[6],
            ],
            $entries,
        );
    }
}
