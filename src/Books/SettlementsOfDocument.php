<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** The settlements that a document's items took part in, with what was set off against what, for its page. */
final readonly class SettlementsOfDocument
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @return list<array{id: int, of_reversal: bool, of_transfer: ?string, settled_on: string, undone_on: ?string, by: string,
     *     undone_by: string, exchange: int,
     *     lines: list<array<string, mixed>>, adjustments: list<array<string, mixed>>}>
     */
    public function of(int $documentId): array
    {
        $lines = $heads = [];
        foreach ($this->lines($documentId) as $r) {
            $lines[(int) $r['id']][] = $r;
            $heads[(int) $r['id']] = $r;
        }
        $adjustments = $this->adjustments(array_keys($heads));
        $settlements = [];
        foreach ($heads as $id => $r) {
            $ofTransfer = null !== $r['of_kind'] && DocumentKind::from((string) $r['of_kind'])->settlesItself();
            $settlements[] = [
                'id' => $id,
                'of_reversal' => (bool) $r['of_reversal'],
                'of_transfer' => $ofTransfer ? (string) $r['of_number'] : null,
                'settled_on' => (string) $r['settled_on'],
                'undone_on' => null === $r['undone_on'] ? null : (string) $r['undone_on'],
                'by' => (string) $r['by_name'],
                'undone_by' => (string) $r['undone_by'],
                'exchange' => (int) $r['exchange'],
                'lines' => $lines[$id],
                'adjustments' => $adjustments[$id] ?? [],
            ];
        }

        return $settlements;
    }

    /** @return list<array<string, mixed>> */
    private function lines(int $documentId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT s.id, w.reverses_id IS NOT NULL AS of_reversal, w.number AS of_number, w.kind AS of_kind,
                s.settled_on, s.undone_on, s.exchange, u.name AS by_name, COALESCE(v.name, '') AS undone_by,
                o.number, o.kind, o.currency, o.document_id, l.applied
            FROM settlement s
            JOIN settlement_line l ON l.settlement_id = s.id
            JOIN open_item o ON o.id = l.item_id
            JOIN app_user u ON u.id = s.created_by_id
            LEFT JOIN app_user v ON v.id = s.undone_by_id
            LEFT JOIN document w ON w.id = s.document_id
            WHERE s.id IN (
                SELECT m.settlement_id
                FROM settlement_line m
                JOIN open_item i ON i.id = m.item_id
                WHERE i.document_id = ?
            )
            ORDER BY s.id, l.id
            SQL
            ,
            [$documentId],
        );
    }

    /**
     * @param list<int> $settlements
     *
     * @return array<int, non-empty-list<array<string, mixed>>> by settlement
     */
    private function adjustments(array $settlements): array
    {
        $found = [];
        if ([] !== $settlements) {
            $rows = $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT j.settlement_id, j.kind, j.amount, i.number, i.currency
                FROM settlement_adjustment j
                JOIN open_item i ON i.id = j.item_id
                WHERE j.settlement_id IN (?)
                ORDER BY j.id
                SQL
                ,
                [$settlements],
                [ArrayParameterType::INTEGER],
            );
            foreach ($rows as $r) {
                $found[(int) $r['settlement_id']][] = $r;
            }
        }

        return $found;
    }

    public function exists(int $companyId, Side $side, int $settlementId): bool
    {
        return false !==
            $this->db->fetchOne('SELECT 1 FROM settlement WHERE id = ? AND company_id = ? AND side = ?', [
                $settlementId,
                $companyId,
                $side->value,
            ]);
    }
}
