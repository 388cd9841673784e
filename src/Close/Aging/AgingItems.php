<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Aging;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\OpenAsOf;
use Nelbix\App\Platform\Keyset;
use Nelbix\Core\Aging\AgingSum;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;

/**
 * The items behind a figure of an aging, or behind all of it.
 *
 * @phpstan-type AgedItem array{id: int, document_id: int, party_id: int, party: string, party_name: string, number: string,
 *     their_number: string, kind: string, date: string, document_date: string, due_date: string, days: int, column: string,
 *     currency: string, original: int, open: int, open_base: int, held: bool}
 */
final readonly class AgingItems
{
    public const PAGE = 200;

    public function __construct(private Connection $db, private CostCenterShares $costCenters)
    {
    }

    /** @return array{rows: list<AgedItem>, next: ?string} by party and date */
    public function page(AgingCriteria $criteria, ?AgingCell $cell, ?string $after): array
    {
        $keyset = $this->keyset($criteria);
        [$rows, $next] = $keyset->page($this->rows($criteria, $cell, $after, self::PAGE + 1), self::PAGE);

        return ['rows' => $this->aged($criteria, $cell, $rows), 'next' => $next];
    }

    /** @return \Generator<int, AgedItem> all of them */
    public function each(AgingCriteria $criteria, ?AgingCell $cell): \Generator
    {
        $after = null;
        do {
            $page = $this->keyset($criteria)->page($this->rows($criteria, $cell, $after, 2001), 2000);
            [$rows, $after] = $page;
            yield from $this->aged($criteria, $cell, $rows);
        } while (null !== $after);
    }

    private function keyset(AgingCriteria $criteria): Keyset
    {
        return new Keyset(['p.code', $criteria->column(), 'i.id']);
    }

    /** @return list<array<string, mixed>> */
    private function rows(AgingCriteria $criteria, ?AgingCell $cell, ?string $after, int $most): array
    {
        [$more, $with] = $criteria->where();
        [$of, $ofCell] = $cell?->where($criteria) ?? ['', []];
        $keyset = $this->keyset($criteria);
        [$later, $place] = $keyset->after($after);
        $day = OpenAsOf::day($this->db, $criteria->companyId, $criteria->side, $criteria->asOf);
        [$open, $base, $join, $where] = [$day->open(), $day->open('_base'), $day->join(), $day->where()];
        [$keys, $order, $column] = [$keyset->select(), $keyset->order(), $criteria->column()];

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT i.id, i.document_id, i.party_id, p.code AS party, p.name AS party_name, i.number, d.their_number, i.kind,
                $column AS date, i.document_date, i.due_date, i.currency, i.original, $open AS open, $base AS open_base,
                d.held_reason IS NOT NULL AS held, $keys
            FROM open_item i
            JOIN party p ON p.id = i.party_id
            JOIN document d ON d.id = i.document_id
            $join
            WHERE i.company_id = :company AND i.side = :side AND $where$more$of$later
            ORDER BY $order
            LIMIT $most
            SQL
            ,
            [...$with, ...$ofCell, ...$place],
        );
    }

    /**
     * @param list<array<string, mixed>> $rows
     *
     * @return list<AgedItem>
     */
    private function aged(AgingCriteria $criteria, ?AgingCell $cell, array $rows): array
    {
        $center = AgingBy::CostCenter === $criteria->rows && null !== $cell?->key ? (int) $cell->key : null;
        $weights =
            null === $center
                ? []
                : $this->costCenters->weights(array_map('intval', array_column($rows, 'document_id')));
        $aged = [];
        foreach ($rows as $r) {
            foreach (['id', 'document_id', 'party_id', 'original', 'open', 'open_base'] as $int) {
                $r[$int] = (int) $r[$int];
            }
            if (null !== $center) {
                foreach (['open', 'open_base'] as $amount) {
                    $r[$amount] = CostCenterShares::split($r[$amount], $weights[$r['document_id']] ?? [])[$center] ?? 0;
                }
            }
            $r['held'] = (bool) $r['held'];
            $date = Day::of((string) $r['date']);
            $class = AgingSum::classOf(DocumentKind::from((string) $r['kind']), $criteria->side);
            $k = $criteria->bucketing->indexOf($date, $criteria->asOf);
            $r['days'] = max(0, $date->daysUntil($criteria->asOf));
            $r['column'] = match (true) {
                !$criteria->credits->nets($class) => AgingSum::CREDIT === $class ? 'credits' : 'prepayments',
                $k < 0 => 'not_due',
                default => (string) $k,
            };
            $aged[] = $r;
        }

        /** @var list<AgedItem> */
        return $aged;
    }
}
