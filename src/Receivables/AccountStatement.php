<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Books\OpenAsOf;
use Nelbix\Core\Calendar\Day;

/**
 * Statements of account of customers: what is open as of a day, or all that moved between two days with the balance that runs. In the
 * currency of the documents. A few queries for any number of customers.
 *
 * @phpstan-type StatementLine array{day: string, number: string, what: string, due: ?string, amount: int, balance: int}
 * @phpstan-type OfCurrency array{opening: int, lines: list<StatementLine>, closing: int, overdue: int}
 * @phpstan-type Statement array{party: array<string, mixed>, currencies: array<string, OfCurrency>}
 */
final readonly class AccountStatement
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @param list<int> $parties customers
     * @param Day|null $from null for what is open as of $through
     *
     * @return list<Statement> of those that have something to show, by code
     */
    public function of(int $companyId, array $parties, ?Day $from, Day $through): array
    {
        if ([] === $parties) {
            return [];
        }
        $open = $this->open($companyId, $parties, $through);
        $opening = null === $from ? [] : $this->balances($companyId, $parties, $from->plusDays(-1));
        $moves = null === $from ? [] : $this->moves($companyId, $parties, $from, $through);
        $statements = [];
        foreach ($this->heads($companyId, $parties) as $head) {
            $id = (int) $head['id'];
            $currencies = [];
            $of = array_unique([
                ...array_keys($open[$id] ?? []),
                ...array_keys($opening[$id] ?? []),
                ...array_keys($moves[$id] ?? []),
            ]);
            sort($of);
            foreach ($of as $currency) {
                $currencies[$currency] = self::ofCurrency(
                    null === $from ? 0 : $opening[$id][$currency] ?? 0,
                    null === $from ? $open[$id][$currency] ?? [] : $moves[$id][$currency] ?? [],
                    $open[$id][$currency] ?? [],
                    $through,
                );
            }
            if ([] !== $currencies) {
                $statements[] = ['party' => $head, 'currencies' => $currencies];
            }
        }

        return $statements;
    }

    /**
     * @param list<array<string, mixed>> $rows
     * @param list<array<string, mixed>> $open
     *
     * @return OfCurrency
     */
    private static function ofCurrency(int $opening, array $rows, array $open, Day $through): array
    {
        $balance = $opening;
        $lines = [];
        foreach ($rows as $r) {
            $balance += (int) $r['amount'];
            $lines[] = [
                'day' => (string) $r['day'],
                'number' => (string) $r['number'],
                'what' => str_replace('_', ' ', (string) $r['what']),
                'due' => null === $r['due'] ? null : (string) $r['due'],
                'amount' => (int) $r['amount'],
                'balance' => $balance,
            ];
        }
        $late = array_filter($open, static fn (array $r): bool => (int) $r['amount'] > 0 && $r['due'] < $through->iso());

        return [
            'opening' => $opening,
            'lines' => $lines,
            'closing' => $balance,
            'overdue' => array_sum(array_map(static fn (array $r): int => (int) $r['amount'], $late)),
        ];
    }

    /**
     * @param list<int> $parties
     *
     * @return array<int, array<string, list<array<string, mixed>>>> by party and currency, what is due first ahead
     */
    private function open(int $companyId, array $parties, Day $through): array
    {
        $asOf = OpenAsOf::replayed();
        [$open, $join, $where] = [$asOf->open(), $asOf->join(), $asOf->where()];
        $found = [];
        $rows = $this->db->iterateAssociative(
            <<<SQL
            SELECT i.party_id, i.currency, i.document_date AS day, i.number, i.kind AS what, i.due_date AS due, $open AS amount
            FROM open_item i
            $join
            WHERE i.company_id = :company AND i.side = 'receivables' AND i.party_id IN (:parties) AND $where
            ORDER BY i.due_date, i.id
            SQL
            ,
            ['company' => $companyId, 'parties' => $parties, 'day' => $through->iso()],
            ['parties' => ArrayParameterType::INTEGER],
        );
        foreach ($rows as $r) {
            $found[(int) $r['party_id']][(string) $r['currency']][] = $r;
        }

        return $found;
    }

    /**
     * @param list<int> $parties
     *
     * @return array<int, array<string, int>> what was open, by party and currency
     */
    private function balances(int $companyId, array $parties, Day $day): array
    {
        return array_map(
            static fn (array $of): array => array_map(
                static fn (array $rows): int => array_sum(
                    array_map(static fn (array $r): int => (int) $r['amount'], $rows),
                ),
                $of,
            ),
            $this->open($companyId, $parties, $day),
        );
    }

    /**
     * Documents on their posting date, what helped to settle them on the day of the settlement, and its undo on its own. What only moved
     * within the account, a claim, is no movement of it.
     *
     * @param list<int> $parties
     *
     * @return array<int, array<string, list<array<string, mixed>>>> by party and currency
     */
    private function moves(int $companyId, array $parties, Day $from, Day $through): array
    {
        $found = [];
        $rows = $this->db->iterateAssociative(
            <<<'SQL'
            SELECT * FROM (
                SELECT i.party_id, i.currency, i.posting_date AS day, d.number, d.kind AS what, MIN(i.due_date) AS due,
                    SUM(i.original) AS amount, 0 AS step, d.id AS id
                FROM open_item i
                JOIN document d ON d.id = i.document_id
                WHERE i.company_id = :company AND i.side = 'receivables' AND i.party_id IN (:parties)
                    AND i.posting_date BETWEEN :from AND :through
                GROUP BY i.party_id, i.currency, i.posting_date, d.number, d.kind, d.id
                UNION ALL
                SELECT s.party_id, s.currency, s.settled_on, i.number, j.kind, NULL, SUM(j.amount), 1, s.id
                FROM settlement s
                JOIN settlement_adjustment j ON j.settlement_id = s.id
                JOIN open_item i ON i.id = j.item_id
                WHERE s.company_id = :company AND s.side = 'receivables' AND s.party_id IN (:parties)
                    AND s.settled_on BETWEEN :from AND :through
                GROUP BY s.party_id, s.currency, s.settled_on, i.number, j.kind, s.id
                UNION ALL
                SELECT s.party_id, s.currency, s.undone_on, i.number, CONCAT(j.kind, ' taken back'), NULL, -SUM(j.amount), 2, s.id
                FROM settlement s
                JOIN settlement_adjustment j ON j.settlement_id = s.id
                JOIN open_item i ON i.id = j.item_id
                WHERE s.company_id = :company AND s.side = 'receivables' AND s.party_id IN (:parties)
                    AND s.undone_on BETWEEN :from AND :through
                GROUP BY s.party_id, s.currency, s.undone_on, i.number, j.kind, s.id
            ) m
            WHERE amount <> 0
            ORDER BY party_id, day, step, id
            SQL
            ,
            ['company' => $companyId, 'parties' => $parties, 'from' => $from->iso(), 'through' => $through->iso()],
            ['parties' => ArrayParameterType::INTEGER],
        );
        foreach ($rows as $r) {
            $found[(int) $r['party_id']][(string) $r['currency']][] = $r;
        }

        return $found;
    }

    /**
     * @param list<int> $parties
     *
     * @return list<array<string, mixed>>
     */
    private function heads(int $companyId, array $parties): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT id, code, name, street, city, country, email, statement, language
            FROM party
            WHERE company_id = ? AND side = 'receivables' AND nobody = 0 AND id IN (?)
            ORDER BY code
            SQL
            ,
            [$companyId, $parties],
            [1 => ArrayParameterType::INTEGER],
        );
    }

    /**
     * Customers with an open item, and what they would get.
     *
     * @return list<array<string, mixed>> code, name, email, statement (a key of PartyProfile::STATEMENTS), open and overdue in base
     */
    public function customers(int $companyId, Day $day): array
    {
        $asOf = OpenAsOf::replayed();
        [$open, $join, $where] = [$asOf->open('_base'), $asOf->join(), $asOf->where()];

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT p.id, p.code, p.name, p.email, p.statement, COUNT(*) AS items, SUM($open) AS open,
                SUM(IF(i.due_date < :day AND $open > 0, $open, 0)) AS overdue
            FROM open_item i
            JOIN party p ON p.id = i.party_id AND p.nobody = 0
            $join
            WHERE i.company_id = :company AND i.side = 'receivables' AND $where
            GROUP BY p.id, p.code, p.name, p.email, p.statement
            ORDER BY p.code
            SQL
            ,
            ['company' => $companyId, 'day' => $day->iso()],
        );
    }
}
