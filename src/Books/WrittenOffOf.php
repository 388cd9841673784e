<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;

/** What of a customer's items was written off as bad debt, and what of it was recovered: what money that comes after all may be for. */
final readonly class WrittenOffOf
{
    private const DEBTS = <<<'SQL'
    SELECT j.id, j.item_id, s.party_id, s.currency, i.number, s.settled_on, j.reason, -j.amount AS amount,
        a.role = 'bad_debt_allowance' AS from_allowance,
        COALESCE((SELECT SUM(r.amount) FROM settlement_adjustment r JOIN settlement t ON t.id = r.settlement_id
            WHERE r.recovers_id = j.id AND t.undone_on IS NULL), 0) AS recovered
    FROM settlement_adjustment j
    JOIN settlement s ON s.id = j.settlement_id AND s.undone_on IS NULL
    JOIN open_item i ON i.id = j.item_id
    JOIN account a ON a.id = j.account_id
    SQL;

    /** In SQL: what was written off of a customer (:party) in all, and recovered of it: "USD 3600 1200" by currency, for its page. */
    public const SUMS = <<<'SQL'
    (SELECT GROUP_CONCAT(CONCAT_WS(' ', w.currency, w.off, w.recovered) ORDER BY w.currency) FROM (
        SELECT s.currency, SUM(IF(j.kind = 'bad_debt', -j.amount, 0)) AS off,
            SUM(IF(j.kind = 'recovery' OR a.role = 'bad_debts_recovered', ABS(j.amount), 0)) AS recovered
        FROM settlement s
        JOIN settlement_adjustment j ON j.settlement_id = s.id AND j.kind IN ('bad_debt', 'account', 'recovery')
        JOIN account a ON a.id = j.account_id
        WHERE s.party_id = :party AND s.side = 'receivables' AND s.undone_on IS NULL
        GROUP BY s.currency
        HAVING off > 0
    ) w)
    SQL;

    public function __construct(private Connection $db)
    {
    }

    /** @return array<int, WrittenOff> those that are not wholly recovered, the oldest first, by the adjustment that wrote them off */
    public function open(int $partyId, string $currency): array
    {
        $debts = $this->rows(
            "WHERE s.party_id = ? AND s.side = 'receivables' AND s.currency = ? AND j.kind = 'bad_debt' ORDER BY s.settled_on, j.id",
            [$partyId, $currency],
        );
        // what came before recoveries named their debt counts for the oldest
        $unnamed = $this->unnamed($partyId, $currency);
        $open = [];
        foreach ($debts as $id => $debt) {
            $of = min($unnamed, $debt->left());
            $unnamed -= $of;
            $debt = new WrittenOff(...['recovered' => $debt->recovered + $of] + get_object_vars($debt));
            if ($debt->left() > 0) {
                $open[$id] = $debt;
            }
        }

        return $open;
    }

    /**
     * @param list<int> $adjustments that wrote debts off
     *
     * @return array<int, WrittenOff> of those that stand
     */
    public function these(array $adjustments): array
    {
        return [] === $adjustments ? [] : $this->rows("WHERE j.kind = 'bad_debt' AND j.id IN (?)", [$adjustments]);
    }

    /** @return int what may still be recovered, positive minor units of the currency */
    public function of(int $partyId, string $currency): int
    {
        return array_sum(array_map(static fn (WrittenOff $w): int => $w->left(), $this->open($partyId, $currency)));
    }

    private function unnamed(int $partyId, string $currency): int
    {
        return (int) $this->db->fetchOne(
            <<<'SQL'
            SELECT COALESCE(SUM(ABS(j.amount)), 0)
            FROM settlement s
            JOIN settlement_adjustment j ON j.settlement_id = s.id AND j.kind = 'account'
            JOIN account a ON a.id = j.account_id AND a.role = 'bad_debts_recovered'
            WHERE s.party_id = ? AND s.side = 'receivables' AND s.currency = ? AND s.undone_on IS NULL
            SQL
            ,
            [$partyId, $currency],
        );
    }

    /**
     * @param list<mixed> $parameters
     *
     * @return array<int, WrittenOff>
     */
    private function rows(string $where, array $parameters): array
    {
        $types = array_map(
            static fn (mixed $p): ArrayParameterType|string => \is_array($p) ? ArrayParameterType::INTEGER : 'string',
            $parameters,
        );
        $found = [];
        foreach ($this->db->iterateAssociative(self::DEBTS.' '.$where, $parameters, $types) as $r) {
            $found[(int) $r['id']] = new WrittenOff(
                (int) $r['id'],
                (int) $r['item_id'],
                (int) $r['party_id'],
                (string) $r['currency'],
                (string) $r['number'],
                (string) $r['settled_on'],
                (string) $r['reason'],
                (int) $r['amount'],
                (int) $r['recovered'],
                1 === (int) $r['from_allowance'],
            );
        }

        return $found;
    }
}
