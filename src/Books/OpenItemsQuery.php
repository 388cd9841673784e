<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\Connection;
use Nelbix\App\Parties\PartyItems;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/**
 * Open items as of a day, as scalar rows. An item counts from its posting date; a settlement from its date, its undo
 * from the undo's own date. Source: rules.md, Settlements.
 *
 * @phpstan-type ItemRow array{id: int, document_id: int, party_id: int, party: string, party_name: string, number: string,
 *     their_number: string, kind: string, currency: string, original: int, original_base: int, open: int, open_base: int,
 * document_date: string,
 *     posting_date: string, due_date: string, held: bool, approval: string, reserved_by: ?string, account_id: int,
 *     discount_through: ?string, discount: ?int}
 */
final readonly class OpenItemsQuery implements PartyItems
{
    /** What settlements had taken of an item by a day; needs :day twice. */
    public const TAKEN = <<<'SQL'
    (SELECT l.item_id, SUM(l.applied) AS applied, SUM(l.applied_base) AS applied_base FROM settlement s JOIN settlement_line l
        ON l.settlement_id = s.id WHERE s.company_id = :company AND s.side = :side AND s.settled_on <= :day
        AND (s.undone_on IS NULL OR s.undone_on > :day) GROUP BY l.item_id)
    SQL;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param string $order a key of ORDERS
     *
     * @return list<ItemRow>
     */
    public function asOf(
        int $companyId,
        Side $side,
        Day $day,
        bool $isBooksDay,
        ?int $partyId = null,
        string $order = 'due',
        ?int $limit = null,
        bool $withSettled = false,
    ): array {
        // on or after the last movement what is stored is what was open; only the past has to be replayed
        $live = $isBooksDay && !$this->hasLater($companyId, $side, $day);
        $open = $live ? 'i.open' : '(i.original - COALESCE(t.applied, 0))';
        $base = $live ? 'i.open_base' : '(i.original_base - COALESCE(t.applied_base, 0))';
        $rows = $this->db
            ->executeQuery(
                <<<SQL
                SELECT i.id, i.document_id, i.party_id, p.code AS party, p.name AS party_name, i.number, d.their_number, i.kind,
                    i.currency, i.original, i.original_base, $open AS open, $base AS open_base, i.document_date, i.posting_date, i.due_date,
                    d.held_reason IS NOT NULL AS held, d.approval, i.reserved_as AS reserved_by, i.account_id,
                    x.through AS discount_through, x.amount AS discount
                FROM open_item i
                JOIN party p ON p.id = i.party_id
                JOIN document d ON d.id = i.document_id
                LEFT JOIN item_discount x ON x.id = (SELECT y.id FROM item_discount y WHERE y.item_id = i.id AND y.through >= :day
                    ORDER BY y.through LIMIT 1)
                SQL
                .
                    ($live ? '' : ' LEFT JOIN '.self::TAKEN.' t ON t.item_id = i.id').
                    ' WHERE i.company_id = :company AND i.side = :side'.
                    ($withSettled
                        ? ' AND i.posting_date <= :day'
                        : ($live
                            ? ' AND i.open <> 0'
                            : ' AND i.posting_date <= :day AND (i.open <> 0 OR i.last_moved_on > :day) HAVING open <> 0')).
                    ' ORDER BY '.
                    self::ORDERS[$order].
                    (null === $limit ? '' : ' LIMIT '.$limit),
                ['company' => $companyId, 'side' => $side->value, 'day' => $day->iso()],
            )
            ->iterateAssociative();
        $list = [];
        foreach ($rows as $r) {
            if (null !== $partyId && (int) $r['party_id'] !== $partyId) {
                continue;
            }
            $list[] = self::row($r);
        }

        return $list;
    }

    public const ORDERS = [
        'due' => 'due_date, i.id',
        'party' => 'party, due_date, i.id',
        'number' => 'i.number',
        'open' => 'open DESC, i.id',
        'document_date' => 'document_date, i.id',
    ];

    /** @return list<ItemRow> what one party has open now */
    public function ofParty(int $companyId, Side $side, int $partyId, Day $day): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT i.id, i.document_id, i.party_id, p.code AS party, p.name AS party_name, i.number, d.their_number, i.kind,
                i.currency, i.original, i.original_base, i.open, i.open_base, i.document_date, i.posting_date, i.due_date,
                d.held_reason IS NOT NULL AS held, d.approval, i.reserved_as AS reserved_by, i.account_id, x.through AS discount_through,
                x.amount AS discount
            FROM open_item i
            JOIN party p ON p.id = i.party_id
            JOIN document d ON d.id = i.document_id
            LEFT JOIN item_discount x ON x.id = (SELECT y.id FROM item_discount y WHERE y.item_id = i.id AND y.through >= ?
                ORDER BY y.through LIMIT 1)
            WHERE i.company_id = ? AND i.side = ? AND i.party_id = ? AND i.open <> 0
            ORDER BY i.due_date, i.id
            SQL
            ,
            [$day->iso(), $companyId, $side->value, $partyId],
        );

        return array_map(self::row(...), $rows);
    }

    private function hasLater(int $companyId, Side $side, Day $day): bool
    {
        return (bool) $this->db->fetchOne(
            'SELECT 1 FROM open_item WHERE company_id = ? AND side = ? AND (posting_date > ? OR last_moved_on > ?) LIMIT 1',
            [$companyId, $side->value, $day->iso(), $day->iso()],
        );
    }

    /**
     * @param array<string, mixed> $r
     *
     * @return ItemRow
     */
    private static function row(array $r): array
    {
        foreach (
            ['id', 'document_id', 'party_id', 'original', 'original_base', 'open', 'open_base', 'account_id'] as $int
        ) {
            $r[$int] = (int) $r[$int];
        }
        $r['held'] = (bool) $r['held'];
        $r['discount'] = null === $r['discount'] ? null : (int) $r['discount'];

        /** @var ItemRow */
        return $r;
    }

    public function hasOpen(int $partyId): bool
    {
        return false !==
            $this->db->fetchOne('SELECT 1 FROM open_item WHERE party_id = ? AND open <> 0 LIMIT 1', [$partyId]);
    }
}
