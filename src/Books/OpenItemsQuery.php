<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\Connection;
use Nelbix\App\Parties\PartyItems;
use Nelbix\App\Platform\Keyset;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/**
 * Open items as of a day, as scalar rows.
 *
 * @phpstan-type ItemRow array{id: int, document_id: int, party_id: int, party: string, party_name: string, number: string,
 *     their_number: string, kind: string, currency: string, original: int, original_base: int, open: int, open_base: int,
 *     document_date: string, posting_date: string, due_date: string, held: bool, approval: string, reserved_by: ?string,
 *     account_id: int, text: string, their_order: string, discount_through: ?string, discount: ?int}
 */
final readonly class OpenItemsQuery implements PartyItems
{
    /** So many stand on a page; a file has them all. */
    public const PAGE = 200;

    private const INTS = [
        'id',
        'document_id',
        'party_id',
        'original',
        'original_base',
        'open',
        'open_base',
        'account_id',
    ];

    public function __construct(private Connection $db)
    {
    }

    /**
     * A page of them.
     *
     * @param string|null $after where it begins, of the page before
     *
     * @return array{rows: list<ItemRow>, next: ?string}
     */
    public function page(ItemFilter $filter, ?string $after = null, int $size = self::PAGE): array
    {
        $asOf = $this->day($filter);
        $keyset = $filter->keyset($asOf);
        [$rows, $next] = $keyset->page($this->rows($filter, $asOf, $keyset, $after, $size + 1), $size);

        return ['rows' => array_map(self::row(...), $rows), 'next' => $next];
    }

    /** @return \Generator<int, ItemRow> all of them, one at a time */
    public function each(ItemFilter $filter): \Generator
    {
        $asOf = $this->day($filter);
        $keyset = $filter->keyset($asOf);
        $read = fn (?string $place, int $most): array => $this->rows($filter, $asOf, $keyset, $place, $most);
        foreach ($keyset->each($read) as $row) {
            yield self::row($row);
        }
    }

    /** @return array{count: int, base: int, overdue: int} of all of them, base currency */
    public function foot(ItemFilter $filter): array
    {
        $asOf = $this->day($filter);
        [$where, $with] = $filter->where($asOf);
        [$open, $base, $join] = [$asOf->open(), $asOf->open('_base'), $asOf->join()];
        $party = '' === $filter->text ? '' : 'JOIN party p ON p.id = i.party_id';
        $foot = $this->db->fetchNumeric(
            <<<SQL
            SELECT COUNT(*), COALESCE(SUM($base), 0), COALESCE(SUM(IF($open > 0 AND i.due_date < :day, $base, 0)), 0)
            FROM open_item i
            $party
            $join
            WHERE $where
            SQL
            ,
            $with,
        ) ?: [0, 0, 0];

        return ['count' => (int) $foot[0], 'base' => (int) $foot[1], 'overdue' => (int) $foot[2]];
    }

    /** @return list<ItemRow> what one party has open now */
    public function ofParty(int $companyId, Side $side, int $partyId, Day $day): array
    {
        $filter = new ItemFilter($companyId, $side, $day, $partyId);
        $now = OpenAsOf::now();

        return array_map(self::row(...), $this->rows($filter, $now, $filter->keyset($now), null, null));
    }

    public function hasOpen(int $partyId): bool
    {
        return false !==
            $this->db->fetchOne('SELECT 1 FROM open_item WHERE party_id = ? AND open <> 0 LIMIT 1', [$partyId]);
    }

    private function day(ItemFilter $filter): OpenAsOf
    {
        return OpenAsOf::day($this->db, $filter->companyId, $filter->side, $filter->day);
    }

    /**
     * The ids of the page first, along an index; what else is shown is read for those alone.
     *
     * @return list<array<string, mixed>>
     */
    private function rows(ItemFilter $filter, OpenAsOf $asOf, Keyset $keyset, ?string $after, ?int $limit): array
    {
        [$where, $with] = $filter->where($asOf);
        [$later, $place] = $keyset->after($after);
        [$open, $base, $join] = [$asOf->open(), $asOf->open('_base'), $asOf->join()];
        [$keys, $order] = [$keyset->select(), $keyset->order()];
        $party = '' === $filter->text && 'party' !== $filter->order ? '' : 'JOIN party p ON p.id = i.party_id';
        $most = null === $limit ? '' : 'LIMIT '.$limit;
        $again = implode(
            ', ',
            array_map(
                static fn (int $k): string => "k.k$k".($keyset->down ? ' DESC' : ''),
                array_keys($keyset->columns),
            ),
        );

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT k.*, i.document_id, i.party_id, p.code AS party, p.name AS party_name, i.number, d.their_number, i.kind,
                i.currency, i.original, i.original_base, i.document_date, i.posting_date, i.due_date,
                d.held_reason IS NOT NULL AS held, d.approval, i.reserved_as AS reserved_by, i.account_id,
                d.description AS text, IF(d.kind IN ('receipt', 'payment'), '', d.reference) AS their_order,
                x.through AS discount_through, x.amount AS discount
            FROM (
                SELECT i.id, $open AS open, $base AS open_base, $keys
                FROM open_item i
                $party
                $join
                WHERE $where$later
                ORDER BY $order
                $most
            ) k
            JOIN open_item i ON i.id = k.id
            JOIN party p ON p.id = i.party_id
            JOIN document d ON d.id = i.document_id
            LEFT JOIN item_discount x ON x.id = (SELECT y.id FROM item_discount y WHERE y.item_id = i.id AND y.through >= :day
                ORDER BY y.through LIMIT 1)
            ORDER BY $again
            SQL
            ,
            [...$with, ...$place],
        );
    }

    /**
     * @param array<string, mixed> $r
     *
     * @return ItemRow
     */
    private static function row(array $r): array
    {
        foreach (self::INTS as $int) {
            $r[$int] = (int) $r[$int];
        }
        $r['held'] = (bool) $r['held'];
        $r['discount'] = null === $r['discount'] ? null : (int) $r['discount'];

        /** @var ItemRow */
        return $r;
    }
}
