<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Reports;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Keyset;
use Nelbix\Core\Calendar\Day;

/**
 * The ledger card of an account, or of a party over all its control accounts: every line with what the balance is after it, debit positive.
 *
 * @phpstan-type CardLine array{id: int, posting_date: string, number: string, text: string, line_text: string, account: string,
 *     party: ?string, party_id: ?int, side: ?string, base: int, balance: int}
 */
final readonly class LedgerCard
{
    public const PAGE = 200;

    public function __construct(private Connection $db)
    {
    }

    /** @return array{rows: list<CardLine>, next: ?string, opening: int, closing: int} */
    public function ofAccount(int $accountId, Day $from, Day $to, ?string $after): array
    {
        return $this->card('l.account_id = :of', $accountId, $from, $to, $after);
    }

    /** @return array{rows: list<CardLine>, next: ?string, opening: int, closing: int} */
    public function ofParty(int $partyId, Day $from, Day $to, ?string $after): array
    {
        $controls = Chart::controls();

        return $this->card("l.party_id = :of AND a.role IN ($controls)", $partyId, $from, $to, $after);
    }

    /** @return \Generator<int, CardLine> all of them */
    public function each(bool $party, int $of, Day $from, Day $to): \Generator
    {
        $after = null;
        do {
            $card = $party ? $this->ofParty($of, $from, $to, $after) : $this->ofAccount($of, $from, $to, $after);
            yield from $card['rows'];
            $after = $card['next'];
        } while (null !== $after);
    }

    /** @return array{id: int, code: string, name: string, side: string}|null null when it is of another company */
    public function party(int $companyId, int $id): ?array
    {
        $row = $this->db->fetchAssociative('SELECT id, code, name, side FROM party WHERE id = ? AND company_id = ?', [
            $id,
            $companyId,
        ]);

        return false === $row
            ? null
            : [
                'id' => (int) $row['id'],
                'code' => (string) $row['code'],
                'name' => (string) $row['name'],
                'side' => (string) $row['side'],
            ];
    }

    /** @return array{rows: list<CardLine>, next: ?string, opening: int, closing: int} */
    private function card(string $which, int $of, Day $from, Day $to, ?string $after): array
    {
        $keyset = new Keyset(['l.posting_date', 'l.id']);
        [$later, $place] = $keyset->after($after);
        [$keys, $order, $most] = [$keyset->select(), $keyset->order(), self::PAGE + 1];
        $with = ['of' => $of, 'from' => $from->iso(), 'to' => $to->iso()];
        [$rows, $next] = $keyset->page(
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT l.id, l.posting_date, e.number, e.text, l.text AS line_text, a.number AS account, p.name AS party, p.id AS party_id,
                    p.side, l.base, $keys
                FROM journal_line l
                JOIN journal_entry e ON e.id = l.entry_id
                JOIN account a ON a.id = l.account_id
                LEFT JOIN party p ON p.id = l.party_id
                WHERE $which AND l.posting_date BETWEEN :from AND :to$later
                ORDER BY $order
                LIMIT $most
                SQL
                ,
                [...$with, ...$place],
            ),
            self::PAGE,
        );
        [$opening, $closing, $before] = array_map(
            'intval',
            $this->db->fetchNumeric(
                <<<'SQL'
                SELECT SUM(IF(l.posting_date < :from, l.base, 0)), SUM(l.base),
                    SUM(IF(l.posting_date < :first OR (l.posting_date = :first AND l.id < :id), l.base, 0))
                FROM journal_line l
                JOIN account a ON a.id = l.account_id
                WHERE

                SQL
                .
                    $which.
                    ' AND l.posting_date <= :to',
                [
                    ...$with,
                    'first' => $rows[0]['posting_date'] ?? $to->plusDays(1)->iso(),
                    'id' => (int) ($rows[0]['id'] ?? 0),
                ],
            ) ?: [0, 0, 0],
        );
        $balance = $before;
        $lines = [];
        foreach ($rows as $r) {
            $balance += (int) $r['base'];
            $lines[] = [
                'id' => (int) $r['id'],
                'posting_date' => (string) $r['posting_date'],
                'number' => (string) $r['number'],
                'text' => (string) $r['text'],
                'line_text' => (string) $r['line_text'],
                'account' => (string) $r['account'],
                'party' => null === $r['party'] ? null : (string) $r['party'],
                'party_id' => null === $r['party_id'] ? null : (int) $r['party_id'],
                'side' => null === $r['side'] ? null : (string) $r['side'],
                'base' => (int) $r['base'],
                'balance' => $balance,
            ];
        }

        return ['rows' => $lines, 'next' => $next, 'opening' => $opening, 'closing' => $closing];
    }
}
