<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Doctrine\DBAL\Connection;
use Nelbix\App\Parties\PartyDetails;
use Nelbix\App\Platform\Keyset;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Vendors or customers with what they have open, for their list. */
final readonly class PartyListQuery
{
    /** So many stand on a page; a file has them all. */
    private const PAGE = 200;

    private Keyset $byCode;

    public function __construct(private Connection $db)
    {
        $this->byCode = new Keyset(['p.code', 'p.id']);
    }

    /**
     * A page of them.
     *
     * @param string|null $after where it begins, of the page before
     *
     * @return array{rows: list<array<string, mixed>>, next: ?string}
     */
    public function page(int $companyId, Side $side, Day $day, string $text, ?string $after = null): array
    {
        [$rows, $next] = $this->byCode->page(
            $this->rows($companyId, $side, $day, $text, $after, self::PAGE + 1),
            self::PAGE,
        );

        return ['rows' => $rows, 'next' => $next];
    }

    /** @return \Generator<int, array<string, mixed>> all of them */
    public function each(int $companyId, Side $side, Day $day, string $text): \Generator
    {
        yield from $this->byCode->each(
            fn (?string $after, int $most): array => $this->rows($companyId, $side, $day, $text, $after, $most),
        );
    }

    /** @return array{count: int, open: int, overdue: int} of all of them, base currency */
    public function foot(int $companyId, Side $side, Day $day, string $text): array
    {
        [$filter, $with] = self::filter($companyId, $side, $text);
        $sum = $this->db->fetchNumeric(
            <<<SQL
            SELECT COALESCE(SUM(i.open_base), 0), COALESCE(SUM(IF(i.open > 0 AND i.due_date < :day, i.open_base, 0)), 0)
            FROM open_item i
            JOIN party p ON p.id = i.party_id
            WHERE i.company_id = :company AND i.side = :side AND i.is_open = 1 AND $filter
            SQL
            ,
            [...$with, 'day' => $day->iso()],
        ) ?: [0, 0];

        return [
            'count' => (int) $this->db->fetchOne("SELECT COUNT(*) FROM party p WHERE $filter", $with),
            'open' => (int) $sum[0],
            'overdue' => (int) $sum[1],
        ];
    }

    /** @return array{string, array<string, string|int>} SQL over party p, and its values */
    private static function filter(int $companyId, Side $side, string $text): array
    {
        $with = ['company' => $companyId, 'side' => $side->value];
        if ('' === $text) {
            return ['p.company_id = :company AND p.side = :side AND p.nobody = 0', $with];
        }
        $like = addcslashes($text, '%_\\').'%';

        return [
            'p.company_id = :company AND p.side = :side AND p.nobody = 0 AND (p.code LIKE :like OR p.name LIKE :like OR p.name LIKE :word '.
            'OR p.tax_number LIKE :like OR p.street LIKE :middle OR p.city LIKE :like)',
            [...$with, 'like' => $like, 'word' => '% '.$like, 'middle' => '%'.$like],
        ];
    }

    /** @return list<array<string, mixed>> by code */
    private function rows(int $companyId, Side $side, Day $day, string $text, ?string $after, int $most): array
    {
        [$filter, $with] = self::filter($companyId, $side, $text);
        [$later, $place] = $this->byCode->after($after);
        $holds = PartyDetails::stopHolds(':day');

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT p.*,
                (SELECT GROUP_CONCAT(s.what ORDER BY s.what SEPARATOR ', ') FROM party_stop s
                    WHERE s.party_id = p.id AND $holds) AS stops,
                COALESCE(SUM(i.open_base), 0) AS open, COUNT(i.id) AS n,
                COALESCE(SUM(IF(i.open > 0 AND i.due_date < :day, i.open_base, 0)), 0) AS overdue
            FROM (
                SELECT {$this->byCode->select()}, p.id, p.code, p.name, p.city, p.retired, p.bank_confirmed
                FROM party p
                WHERE $filter$later
                ORDER BY {$this->byCode->order()}
                LIMIT $most
            ) p
            LEFT JOIN open_item i ON i.party_id = p.id AND i.side = :side AND i.open <> 0
            GROUP BY p.k0, p.k1, p.id, p.code, p.name, p.city, p.retired, p.bank_confirmed
            ORDER BY p.k0, p.k1
            SQL
            ,
            [...$with, 'day' => $day->iso(), ...$place],
        );
    }

    /** So many documents stand on one page of a party. */
    private const DOCUMENTS = 20;

    /**
     * A page of a party's documents, the newest first, with what they are settled by.
     *
     * @param int|null $before the last one of the page before
     *
     * @return array{rows: list<array<string, mixed>>, next: ?int}
     */
    public function documents(int $companyId, int $partyId, ?int $before = null): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT d.id, d.number, d.their_number, d.kind, d.state, d.document_date, d.due_date, d.total, d.currency,
                (SELECT SUM(i.open) FROM open_item i WHERE i.document_id = d.id) AS open,
                (SELECT SUM(i.original) FROM open_item i WHERE i.document_id = d.id) AS original,
                (SELECT GROUP_CONCAT(DISTINCT o.number ORDER BY o.id SEPARATOR ', ')
                    FROM open_item i
                    JOIN settlement_line l ON l.item_id = i.id
                    JOIN settlement s ON s.id = l.settlement_id AND s.undone_on IS NULL
                    JOIN settlement_line m ON m.settlement_id = s.id AND m.item_id <> i.id
                    JOIN open_item j ON j.id = m.item_id AND SIGN(j.original) <> SIGN(i.original)
                    JOIN document o ON o.id = j.document_id
                    WHERE i.document_id = d.id) AS settled_by
            FROM document d
            WHERE d.company_id = ? AND d.party_id = ? AND d.state <> 'draft' AND d.id < ?
            ORDER BY d.id DESC
            LIMIT
            SQL
            .
                ' '.
                (self::DOCUMENTS + 1),
            [$companyId, $partyId, $before ?? \PHP_INT_MAX],
        );
        $more = \count($rows) > self::DOCUMENTS;
        $rows = \array_slice($rows, 0, self::DOCUMENTS);

        return ['rows' => $rows, 'next' => $more ? (int) $rows[self::DOCUMENTS - 1]['id'] : null];
    }

    /**
     * What a party's page names: its terms, its account, and the party of the other side that is the same business.
     *
     * @return array{term: ?string, account: array{number: string, name: string}|null,
     *     linked: array{id: int, side: Side, code: string, name: string}|null}
     */
    public function names(int $partyId): array
    {
        $r =
            $this->db->fetchAssociative(
                <<<'SQL'
                SELECT t.text AS term, a.number, a.name AS account, l.id, l.side, l.code, l.name
                FROM party p
                LEFT JOIN payment_term t ON t.id = p.term_id
                LEFT JOIN account a ON a.id = p.default_account_id
                LEFT JOIN party l ON l.id = p.linked_party_id
                WHERE p.id = ?
                SQL
                ,
                [$partyId],
            ) ?:
            throw new \LogicException('There is such a party.');

        return [
            'term' => null === $r['term'] ? null : (string) $r['term'],
            'account' => null === $r['number'] ? null : ['number' => (string) $r['number'], 'name' => (string) $r['account']],
            'linked' => null === $r['id']
                    ? null
                    : [
                        'id' => (int) $r['id'],
                        'side' => Side::from((string) $r['side']),
                        'code' => (string) $r['code'],
                        'name' => (string) $r['name'],
                    ],
        ];
    }

    /** The code after the last one of the company's own making, such as V-0042. */
    public function nextCode(int $companyId, Side $side): string
    {
        $last = (string) $this->db->fetchOne(
            'SELECT MAX(code) FROM party WHERE company_id = ? AND side = ? AND code REGEXP ?',
            [$companyId, $side->value, '^[VC]-[0-9]{4}$'],
        );

        return \sprintf('%s-%04d', Side::Payables === $side ? 'V' : 'C', (int) substr($last, 2) + 1);
    }

    /** @return array{cost_center: string, department: string, project: string} codes of what its lines begin with */
    public function analysis(int $partyId): array
    {
        $row = $this->db->fetchNumeric(
            <<<'SQL'
            SELECT c.code, d.code, j.code
            FROM party p
            LEFT JOIN analysis_code c ON c.id = p.cost_center_id
            LEFT JOIN analysis_code d ON d.id = p.department_id
            LEFT JOIN analysis_code j ON j.id = p.project_id
            WHERE p.id = ?
            SQL
            ,
            [$partyId],
        ) ?: ['', '', ''];

        return ['cost_center' => (string) $row[0], 'department' => (string) $row[1], 'project' => (string) $row[2]];
    }
}
