<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\DBAL\Connection;

/** What came of a set: its pairs, what is over on either side, and by what the sides differ. */
final readonly class PairingResult
{
    /** So many rows of a side, and pairs, stand on a page. */
    public const MOST = 200;

    public const STANDING = "('certain', 'confirmed', 'by hand')";

    public function __construct(private Connection $db)
    {
    }

    /**
     * Rows that are over, in groups by a field, the largest sum first.
     *
     * @return list<array{group: string, count: int, sum: int, rows: list<array<string, mixed>>}>
     */
    public function over(PairingSet $set, string $side): array
    {
        $rows = $this->db->fetchAllAssociative(
            'SELECT id, number, amount, dated, fields, document_id, tied FROM pairing_row '.
                'WHERE set_id = ? AND side = ? AND pair_id IS NULL ORDER BY dated, id LIMIT 5000',
            [$set->id(), $side],
        );
        $groups = [];
        foreach ($rows as $r) {
            /** @var array<string, string> $own */
            $own = (array) json_decode((string) $r['fields'], true);
            $fields = $set->fieldsOf($side, $own);
            $group = '' === $set->groupByField ? '' : $fields[$set->groupByField] ?? '';
            $groups[$group] ??= ['group' => $group, 'count' => 0, 'sum' => 0, 'rows' => []];
            ++$groups[$group]['count'];
            $groups[$group]['sum'] += (int) $r['amount'];
            if ($groups[$group]['count'] <= self::MOST) {
                $groups[$group]['rows'][] = [...$r, 'fields' => $fields];
            }
        }
        usort(
            $groups,
            static fn (array $a, array $b): int => [abs($b['sum']), $a['group']] <=> [abs($a['sum']), $b['group']],
        );

        return $groups;
    }

    /**
     * Pairs in some states, with their rows on both sides.
     *
     * @param list<string> $states
     *
     * @return list<array<string, mixed>>
     */
    public function pairs(PairingSet $set, array $states, int $most = self::MOST): array
    {
        $in = "'".implode("', '", $states)."'";
        $pairs = $this->db->fetchAllAssociative(
            \sprintf(
                <<<'SQL'
                SELECT p.*, u.name AS by_name, d.number AS document, d.side, d.company_id AS document_company, e.number AS entry
                FROM pairing_pair p
                JOIN app_user u ON u.id = COALESCE(p.decided_by_id, p.made_by_id)
                LEFT JOIN document d ON d.id = p.document_id
                LEFT JOIN journal_entry e ON e.id = p.entry_id
                WHERE p.set_id = ? AND p.state IN (%s)
                ORDER BY p.difference = 0, p.id
                LIMIT %d
                SQL
                ,
                $in,
                $most,
            ),
            [$set->id()],
        );
        $rows = [];
        if ([] !== $pairs) {
            foreach (
                $this->db->fetchAllAssociative(
                    'SELECT * FROM pairing_row WHERE pair_id IN ('.
                        implode(',', array_map('intval', array_column($pairs, 'id'))).
                        ') ORDER BY dated, id',
                ) as $r
            ) {
                $rows[(int) $r['pair_id']][(string) $r['side']][] = $r;
            }
        }

        return array_map(
            static fn (array $p): array => [
                ...$p,
                'left' => $rows[(int) $p['id']]['left'] ?? [],
                'right' => $rows[(int) $p['id']]['right'] ?? [],
            ],
            $pairs,
        );
    }

    /**
     * Both rails for the drawing: a tick a row in the order of its day, with the pair it is in and how sure that is.
     *
     * @return array{left: list<array{int, int}>, right: list<array{int, int}>, asked: list<int>, rules: array<int, int>}
     */
    public function loom(int $setId): array
    {
        $left = $right = [];
        foreach (
            $this->db->iterateNumeric(
                'SELECT side, COALESCE(pair_id, 0), tied FROM pairing_row WHERE set_id = ? ORDER BY dated, id LIMIT 40000',
                [$setId],
            ) as [$side, $pair, $tied]
        ) {
            if ('left' === $side) {
                $left[] = [(int) $pair, (int) $tied];
            } else {
                $right[] = [(int) $pair, (int) $tied];
            }
        }
        $asked = $rules = [];
        foreach (
            $this->db->iterateNumeric(
                "SELECT id, state, rule_number FROM pairing_pair WHERE set_id = ? AND state <> 'undone'",
                [$setId],
            ) as [$id, $state, $rule]
        ) {
            $rules[(int) $id] = (int) $rule;
            if ('asked' === $state) {
                $asked[] = (int) $id;
            }
        }

        return ['left' => $left, 'right' => $right, 'asked' => $asked, 'rules' => $rules];
    }

    /**
     * What the two sides differ by, by cause. Amounts in the set's currency.
     *
     * @return list<array{cause: string, count: int, amount: int}>
     */
    public function causes(PairingSet $set): array
    {
        $standing = self::STANDING;
        $signs = ['left' => $set->signOf('left'), 'right' => $set->signOf('right')];
        $over = $this->db->fetchAllAssociativeIndexed(
            'SELECT side, COUNT(*) AS count, SUM(amount) AS sum FROM pairing_row WHERE set_id = ? AND pair_id IS NULL GROUP BY side',
            [$set->id()],
        );
        $pairs = $this->db->fetchAssociative(
            <<<SQL
            SELECT SUM(p.difference <> 0) AS other, SUM(p.difference) AS off,
                SUM(p.difference = 0 AND k.days > 0) AS other_day, SUM(p.difference = 0 AND k.base <> 0) AS exchange, SUM(k.base) AS base
            FROM pairing_pair p
            JOIN (
                SELECT r.pair_id, DATEDIFF(MAX(r.dated), MIN(r.dated)) AS days,
                    SUM(IF(r.side = 'right', {$signs['right']}, -{$signs['left']}) * COALESCE(r.base, 0)) AS base
                FROM pairing_row r
                WHERE r.set_id = :set AND r.pair_id IS NOT NULL
                GROUP BY r.pair_id
            ) k ON k.pair_id = p.id
            WHERE p.set_id = :set AND p.state IN $standing AND p.entry_id IS NULL AND p.document_id IS NULL
            SQL
            ,
            ['set' => $set->id()],
        );
        $sameBase =
            1 >=
            (int) $this->db->fetchOne('SELECT COUNT(DISTINCT base_currency) FROM company WHERE id IN (?, ?)', [
                $set->source('left')->companyId,
                $set->source('right')->companyId,
            ]);

        return array_values(
            array_filter(
                [
                    self::cause('missing on the right', $over['left'] ?? null, -$signs['left']),
                    self::cause('missing on the left', $over['right'] ?? null, $signs['right']),
                    [
                        'cause' => 'other amount',
                        'count' => (int) ($pairs['other'] ?? 0),
                        'amount' => (int) ($pairs['off'] ?? 0),
                    ],
                    ['cause' => 'other day', 'count' => (int) ($pairs['other_day'] ?? 0), 'amount' => 0],
                    [
                        'cause' => 'exchange, in base currency',
                        'count' => $sameBase ? (int) ($pairs['exchange'] ?? 0) : 0,
                        'amount' => $sameBase ? (int) ($pairs['base'] ?? 0) : 0,
                    ],
                ],
                static fn (array $c): bool => $c['count'] > 0,
            ),
        );
    }

    /**
     * @param array<string, mixed>|null $over
     *
     * @return array{cause: string, count: int, amount: int}
     */
    private static function cause(string $cause, ?array $over, int $sign): array
    {
        return [
            'cause' => $cause,
            'count' => (int) ($over['count'] ?? 0),
            'amount' => $sign * (int) ($over['sum'] ?? 0),
        ];
    }
}
