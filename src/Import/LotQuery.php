<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\LotOf;
use Nelbix\App\Books\LotState;
use Nelbix\Core\Ledger\Side;

/**
 * Reads files that are taken over in slices.
 *
 * @phpstan-type LotRow array{id: int, holds: LotOf, side: ?Side, kind: string, what: string, name: string, file_id: int, records: int,
 *     posted: int, state: LotState, reason: string, by_name: string, created_at: string}
 */
final readonly class LotQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<LotRow> those that are not through, the newest first */
    public function open(int $companyId): array
    {
        return $this->rows('l.company_id = ? AND l.ended_at IS NULL ORDER BY l.id DESC LIMIT 50', [$companyId]);
    }

    /** @return LotRow|null */
    public function one(int $companyId, int $id): ?array
    {
        return $this->rows('l.company_id = ? AND l.id = ?', [$companyId, $id])[0] ?? null;
    }

    /** @return LotRow|null */
    public function ofFile(int $companyId, int $fileId): ?array
    {
        return $this->rows('l.company_id = ? AND l.file_id = ?', [$companyId, $fileId])[0] ?? null;
    }

    /**
     * @param list<int> $values
     *
     * @return list<LotRow>
     */
    private function rows(string $where, array $values): array
    {
        $rows = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT l.id, l.holds, l.side, l.kind, l.name, l.file_id, l.records, l.posted, l.state, l.reason, l.created_at,
                    u.name AS by_name
                FROM posting_lot l
                JOIN app_user u ON u.id = l.created_by_id
                WHERE $where
                SQL
                ,
                $values,
            ) as $r
        ) {
            $rows[] = [
                'id' => (int) $r['id'],
                'holds' => LotOf::from((string) $r['holds']),
                'side' => null === $r['side'] ? null : Side::from((string) $r['side']),
                'kind' => (string) $r['kind'],
                'what' => Importers::words((string) $r['kind']),
                'name' => (string) $r['name'],
                'file_id' => (int) $r['file_id'],
                'records' => (int) $r['records'],
                'posted' => (int) $r['posted'],
                'state' => LotState::from((string) $r['state']),
                'reason' => (string) $r['reason'],
                'by_name' => (string) $r['by_name'],
                'created_at' => (string) $r['created_at'],
            ];
        }

        return $rows;
    }
}
