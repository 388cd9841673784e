<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Keyset;

/** Deliveries, the last first. */
final readonly class DeliveryListQuery
{
    /** So many stand on the page; a file has them all. */
    private const PAGE = 200;

    private Keyset $newest;

    public function __construct(private Connection $db)
    {
        $this->newest = new Keyset(['g.delivered_on', 'g.id'], true);
    }

    /**
     * A page of them.
     *
     * @param bool $all reversed ones too
     * @param string|null $after where it begins, of the page before
     *
     * @return array{rows: list<array<string, mixed>>, next: ?string}
     */
    public function page(int $companyId, bool $all, ?string $after = null): array
    {
        [$rows, $next] = $this->newest->page($this->rows($companyId, $all, $after, self::PAGE + 1), self::PAGE);

        return ['rows' => $rows, 'next' => $next];
    }

    /** @return \Generator<int, array<string, mixed>> all of them */
    public function each(int $companyId, bool $all): \Generator
    {
        yield from $this->newest->each(
            fn (?string $after, int $most): array => $this->rows($companyId, $all, $after, $most),
        );
    }

    /** @return list<array<string, mixed>> */
    private function rows(int $companyId, bool $all, ?string $after, int $most): array
    {
        [$older, $place] = $this->newest->after($after);
        $open = $all ? '' : ' AND g.is_open = 1';

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT {$this->newest->select()}, g.id, g.number, g.note_number, g.delivered_on, g.reversed_on, g.reason,
                g.currency, g.amount, g.amount_base, g.open_base, g.is_open, p.code, p.name,
                (SELECT u.name FROM app_user u WHERE u.id = g.created_by_id) AS by_name
            FROM delivery g
            JOIN party p ON p.id = g.party_id
            WHERE g.company_id = :company$open$older
            ORDER BY {$this->newest->order()}
            LIMIT $most
            SQL
            ,
            ['company' => $companyId, ...$place],
        );
    }

    /** @return array{count: int, base: int} of what is received and not invoiced, base currency */
    public function foot(int $companyId): array
    {
        $sum = $this->db->fetchNumeric(
            'SELECT COUNT(*), COALESCE(SUM(open_base), 0) FROM delivery WHERE company_id = ? AND is_open = 1',
            [$companyId],
        ) ?: [0, 0];

        return ['count' => (int) $sum[0], 'base' => (int) $sum[1]];
    }
}
