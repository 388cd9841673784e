<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Reconcile;

use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Banking\Statement\Movements;
use Nelbix\Core\Calendar\Day;

/** The bank's balance and the ledger's as of a day, and everything by which they differ. In the bank account's currency. */
final readonly class ReconcileQuery
{
    public function __construct(private Connection $db)
    {
    }

    /** Null while there is no statement of the account. */
    public function of(BankRow $bank, Day $day): ?Reconciled
    {
        // what the statements say: where they begin, how far they reach, what is missing between them, and what moved
        $said = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT f.from_day, f.opening, MAX(s.to_day) AS reach, SUM(IF(s.from_day <= :day, s.gap, 0)) AS gaps,
                (SELECT COALESCE(SUM(l.amount), 0) FROM statement_line l WHERE l.bank_account_id = :bank AND l.day <= :day) AS moved
            FROM bank_statement s
            JOIN (SELECT from_day, opening FROM bank_statement WHERE bank_account_id = :bank ORDER BY from_day, id LIMIT 1) f
            WHERE s.bank_account_id = :bank
            GROUP BY f.from_day, f.opening
            SQL
            ,
            ['bank' => $bank->id, 'day' => $day->iso()],
        );
        if (false === $said) {
            return null;
        }
        $gaps = (int) $said['gaps'];
        [$before, $onTheWay] = $this->entries($bank, $day, Day::of((string) $said['from_day']));
        $opening = (int) $said['opening'];

        return new Reconciled(
            $day,
            Day::of((string) $said['reach']),
            $opening + $gaps + (int) $said['moved'],
            $this->ledger($bank, $day),
            $onTheWay,
            $this->waiting($bank, $day),
            $before - $opening,
            -$gaps,
        );
    }

    /** The last day that the statements of an account tell of; null while there is none. */
    public function reach(BankRow $bank): ?Day
    {
        $day = $this->db->fetchOne('SELECT MAX(to_day) FROM bank_statement WHERE bank_account_id = ?', [$bank->id]);

        return null === $day ? null : Day::of((string) $day);
    }

    private function ledger(BankRow $bank, Day $day): int
    {
        $moved = Movements::MOVED;
        $tables = Movements::FROM;

        return (int) $this->db->fetchOne(
            <<<SQL
            SELECT COALESCE(SUM(m.moved), 0)
            FROM (
                SELECT $moved AS moved
                $tables
                WHERE b.id = ? AND l.posting_date <= ?
                GROUP BY e.id
            ) m
            SQL
            ,
            [$bank->id, $day->iso()],
        );
    }

    /**
     * What moved before the statements begin and stands on none; and what is in the ledger on the day and not on a statement by then.
     *
     * @return array{int, list<array{number: string, day: string, party: string, amount: int, check: string}>}
     */
    private function entries(BankRow $bank, Day $day, Day $begin): array
    {
        $moved = Movements::MOVED;
        $tables = Movements::FROM;
        $before = 0;
        $rows = $this->db->fetchAllAssociative(
            <<<SQL
            SELECT m.*, p.name AS party, k.number AS check_number, s.number AS slip
            FROM (
                SELECT e.id, e.posting_date, e.number, e.text, e.reverses_id, e.source_kind, e.source_id, d.number AS document,
                    d.party_id, d.id AS document_id, d.taken_back, $moved AS moved,
                    (SELECT COALESCE(SUM(y.amount), 0) FROM statement_part y JOIN statement_line t ON t.id = y.line_id
                        WHERE y.entry_id = e.id AND y.bank_account_id = b.id AND y.undone_at IS NULL AND t.day <= :day) AS taken,
                    (SELECT COUNT(*) FROM statement_part y
                        WHERE y.entry_id = e.id AND y.bank_account_id = b.id AND y.undone_at IS NULL) AS parts
                $tables
                WHERE b.id = :bank AND l.posting_date <= :day
                GROUP BY e.id, e.posting_date, e.number, e.text, e.reverses_id, e.source_kind, e.source_id, d.number, d.party_id, d.id,
                    d.taken_back, b.id
                HAVING moved <> taken
            ) m
            LEFT JOIN party p ON p.id = m.party_id
            LEFT JOIN bank_check k ON k.document_id = m.document_id AND k.state IN ('issued', 'cleared', 'returned')
            LEFT JOIN deposit_slip s ON m.source_kind = 'deposit' AND s.id = m.source_id
            ORDER BY m.posting_date, m.id
            SQL
            ,
            ['bank' => $bank->id, 'day' => $day->iso()],
        );
        $gone = Movements::mistakes($rows);
        $onTheWay = [];
        foreach ($rows as $r) {
            $open = (int) $r['moved'] - (int) $r['taken'];
            if (0 === (int) $r['parts'] && Day::of((string) $r['posting_date'])->isBefore($begin)) {
                $before += $open;
            } elseif (!isset($gone[(int) $r['id']])) {
                $onTheWay[] = [
                    'number' => (string) ($r['document'] ?? ($r['slip'] ?? $r['number'])),
                    'day' => (string) $r['posting_date'],
                    'party' => (string) ($r['party'] ?? $r['text']),
                    'amount' => $open,
                    'check' => (string) $r['check_number'],
                ];
            }
        }

        return [$before, $onTheWay];
    }

    /** @return list<array{id: int, day: string, text: string, amount: int}> lines by the day that the ledger does not have by then */
    private function waiting(BankRow $bank, Day $day): array
    {
        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'day' => (string) $r['day'],
                'text' => trim($r['party'].' '.$r['text']),
                'amount' => (int) $r['amount'] - (int) $r['placed'],
            ],
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT t.id, t.day, t.party, t.text, t.amount, COALESCE(SUM(IF(e.posting_date <= :day, y.amount, 0)), 0) AS placed
                FROM statement_line t
                LEFT JOIN statement_part y ON y.line_id = t.id AND y.undone_at IS NULL
                LEFT JOIN journal_entry e ON e.id = y.entry_id
                WHERE t.bank_account_id = :bank AND t.day <= :day
                GROUP BY t.id, t.day, t.party, t.text, t.amount
                HAVING t.amount <> placed
                ORDER BY t.day, t.id
                SQL
                ,
                ['bank' => $bank->id, 'day' => $day->iso()],
            ),
        );
    }

    /**
     * Both balances at the end of each day, for the drawing.
     *
     * @return non-empty-list<array{day: string, bank: int, ledger: int}>
     */
    public function byDay(BankRow $bank, Day $day, int $days, Reconciled $now): array
    {
        $from = $day->plusDays(1 - $days);
        $moved = Movements::MOVED;
        $tables = Movements::FROM;
        $lines = $this->db->fetchAllKeyValue(
            'SELECT day, SUM(amount) FROM statement_line WHERE bank_account_id = ? AND day > ? AND day <= ? GROUP BY day',
            [$bank->id, $from->iso(), $day->iso()],
        );
        $entries = $this->db->fetchAllKeyValue(
            <<<SQL
            SELECT m.posting_date, SUM(m.moved)
            FROM (
                SELECT e.posting_date, $moved AS moved
                $tables
                WHERE b.id = ? AND l.posting_date > ? AND l.posting_date <= ?
                GROUP BY e.id, e.posting_date
            ) m
            GROUP BY m.posting_date
            SQL
            ,
            [$bank->id, $from->iso(), $day->iso()],
        );
        // backwards from what both are on the day
        [$bankBalance, $ledger] = [$now->bank, $now->ledger];
        $rows = [['day' => $day->iso(), 'bank' => $bankBalance, 'ledger' => $ledger]];
        for ($at = $day; $at->isAfter($from); $at = $at->plusDays(-1)) {
            $bankBalance -= (int) ($lines[$at->iso()] ?? 0);
            $ledger -= (int) ($entries[$at->iso()] ?? 0);
            $rows[] = ['day' => $at->plusDays(-1)->iso(), 'bank' => $bankBalance, 'ledger' => $ledger];
        }

        return array_reverse($rows);
    }

    /** @return list<array<string, mixed>> what was signed off, the latest first, with the ledger's balance of that day as it is now */
    public function signed(BankRow $bank): array
    {
        $moved = Movements::MOVED;
        $tables = Movements::FROM;

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT r.*, u.name AS signed_by, w.name AS withdrawn_by,
                (SELECT COALESCE(SUM(m.moved), 0) FROM (
                    SELECT e.id, e.posting_date, $moved AS moved
                    $tables
                    WHERE b.id = :bank
                    GROUP BY e.id, e.posting_date
                ) m WHERE m.posting_date <= r.as_of) AS ledger_now
            FROM reconciliation r
            JOIN app_user u ON u.id = r.signed_by_id
            LEFT JOIN app_user w ON w.id = r.withdrawn_by_id
            WHERE r.bank_account_id = :bank
            ORDER BY r.as_of DESC, r.id DESC
            LIMIT 24
            SQL
            ,
            ['bank' => $bank->id],
        );
    }

    /** @return array<string, mixed>|null one that was signed off, as it was frozen */
    public function one(int $companyId, int $bankId, int $id): ?array
    {
        $row = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT r.*, u.name AS signed_by
            FROM reconciliation r
            JOIN app_user u ON u.id = r.signed_by_id
            WHERE r.id = ? AND r.bank_account_id = ? AND r.company_id = ?
            SQL
            ,
            [$id, $bankId, $companyId],
        );

        return false === $row ? null : $row;
    }
}
