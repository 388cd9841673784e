<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Books\DiscountSteps;
use Nelbix\App\Books\StoredItem;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/**
 * What customers who signed a mandate owe by a day, and their mandates. Claims are never collected, nor what is held or in dispute.
 *
 * @phpstan-type DebitItem array{id: int, number: string, due: string, open: int, discount: int}
 * @phpstan-type Due array{key: string, party_id: int, code: string, name: string, email: string, language: string, mandate_id: int,
 *     mandate: string, signed_on: string, scheme: string, sequence: string, iban: string, bic: string, amount: int, credits: int,
 *     items: non-empty-list<DebitItem>}
 */
final readonly class DebitsQuery
{
    /** A mandate that nothing was collected by for so many months has lapsed. Source: EPC016-06, SDD Core rulebook, 4.1 (from memory). */
    private const MONTHS = 36;

    public function __construct(private Connection $db, private DiscountSteps $discounts)
    {
    }

    /** @return list<Due> by customer; amounts in the bank account's currency */
    public function due(int $companyId, BankRow $bank, Day $through, Day $on): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT i.id, i.party_id, i.kind, i.number, i.account_id, i.currency, i.original, i.original_base, i.open, i.open_base,
                i.posting_date, i.due_date, i.document_date, p.code, p.name, p.email, p.language, m.id AS mandate_id, m.reference,
                m.signed_on, m.scheme, m.once, m.iban, m.bic,
                (SELECT MAX(f.pay_date) FROM bank_file_line l JOIN bank_file f ON f.id = l.bank_file_id
                    WHERE l.mandate_id = m.id AND l.state <> 'rejected') AS used_on,
                COALESCE((SELECT -SUM(c.open) FROM open_item c WHERE c.party_id = p.id AND c.side = 'receivables'
                    AND c.currency = :currency AND c.open < 0), 0) AS credits
            FROM mandate m
            JOIN party p ON p.id = m.party_id AND p.retired = 0
            JOIN open_item i ON i.party_id = p.id AND i.side = 'receivables' AND i.open > 0
                AND i.kind IN ('invoice', 'debit_note', 'finance_charge') AND i.currency = :currency AND i.due_date <= :through
                AND i.posting_date <= :on AND i.reserved_by_id IS NULL
            JOIN document d ON d.id = i.document_id AND d.state = 'posted' AND d.held_reason IS NULL
            WHERE m.company_id = :company AND m.ended_on IS NULL
                AND m.id = (SELECT MAX(n.id) FROM mandate n WHERE n.party_id = p.id AND n.ended_on IS NULL)
            ORDER BY p.code, i.due_date, i.id
            SQL
            ,
            [
                'company' => $companyId,
                'currency' => $bank->currency,
                'through' => $through->iso(),
                'on' => $on->iso(),
            ],
        );
        $steps = $this->discounts->open(
            $companyId,
            Side::Receivables,
            array_map(static fn (array $r): int => (int) $r['id'], $rows),
        );
        $due = [];
        foreach ($rows as $r) {
            $sequence = self::sequence($r, $on);
            if (null === $sequence) {
                continue;
            }
            $party = (int) $r['party_id'];
            $discount = StoredItem::of($r, Side::Receivables, $steps[(int) $r['id']] ?? null)->discountOn($on);
            $due[$party] ??= [
                'party_id' => $party,
                'code' => (string) $r['code'],
                'name' => (string) $r['name'],
                'email' => (string) $r['email'],
                'language' => (string) $r['language'],
                'mandate_id' => (int) $r['mandate_id'],
                'mandate' => (string) $r['reference'],
                'signed_on' => (string) $r['signed_on'],
                'scheme' => (string) $r['scheme'],
                'sequence' => $sequence,
                'iban' => (string) $r['iban'],
                'bic' => (string) $r['bic'],
                'amount' => 0,
                'credits' => (int) $r['credits'],
                'items' => [],
            ];
            $due[$party]['amount'] += (int) $r['open'] - $discount;
            $due[$party]['items'][] = [
                'id' => (int) $r['id'],
                'number' => (string) $r['number'],
                'due' => (string) $r['due_date'],
                'open' => (int) $r['open'],
                'discount' => $discount,
            ];
        }

        return array_map(
            static fn (array $d): array => [
                'key' => substr(hash('sha256', $on->iso().$bank->id.json_encode($d, \JSON_THROW_ON_ERROR)), 0, 32),
                ...$d,
            ],
            array_values($due),
        );
    }

    /**
     * First, again or once; null when the mandate is used up or has lapsed.
     *
     * @param array<string, mixed> $mandate
     */
    private static function sequence(array $mandate, Day $on): ?string
    {
        $used = null === $mandate['used_on'] ? null : Day::of((string) $mandate['used_on']);
        $last = $used ?? Day::of((string) $mandate['signed_on']);

        return match (true) {
            $last->plusMonths(self::MONTHS)->isBefore($on) => null,
            (bool) $mandate['once'] => null === $used ? 'OOFF' : null,
            null === $used => 'FRST',
            default => 'RCUR',
        };
    }

    /** @return list<array<string, mixed>> the mandates of a customer, those that hold first */
    public function mandates(int $partyId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT m.id, m.reference, m.signed_on, m.scheme, m.once, m.iban, m.ended_on, m.ended_why,
                (SELECT MAX(f.pay_date) FROM bank_file_line l JOIN bank_file f ON f.id = l.bank_file_id
                    WHERE l.mandate_id = m.id AND l.state <> 'rejected') AS used_on
            FROM mandate m
            WHERE m.party_id = ?
            ORDER BY m.ended_on IS NOT NULL, m.id DESC
            SQL
            ,
            [$partyId],
        );
    }

    /** @return list<array<string, mixed>> files of direct debits, the last first */
    public function files(int $companyId, int $most = 100): array
    {
        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT f.id, f.number, f.pay_date, f.payments, f.amount, f.sent_at, f.withdrawn_at,
                b.name AS bank, b.currency, u.name AS made_by,
                (SELECT COUNT(*) FROM bank_file_line l WHERE l.bank_file_id = f.id AND l.state = 'rejected') AS rejected
            FROM bank_file f
            JOIN bank_account b ON b.id = f.bank_account_id
            JOIN app_user u ON u.id = f.created_by_id
            WHERE f.company_id = ? AND f.format = 'pain.008'
            ORDER BY f.id DESC
            LIMIT $most
            SQL
            ,
            [$companyId],
        );
    }

    /**
     * What was collected by a file, with what it is for: for the notices.
     *
     * @return list<array<string, mixed>> name, code, language, email, mandate, iban, amount, numbers, in the order of the file
     */
    public function notices(int $fileId): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT p.id AS party_id, p.code, p.name, p.street, p.city, p.country, p.email, p.language, m.reference AS mandate, m.iban,
                l.amount, (
                    SELECT GROUP_CONCAT(i.number ORDER BY i.due_date, i.id SEPARATOR ', ')
                    FROM settlement s
                    JOIN settlement_line x ON x.settlement_id = s.id
                    JOIN open_item i ON i.id = x.item_id AND i.document_id <> l.document_id
                    WHERE s.document_id = l.document_id
                ) AS numbers
            FROM bank_file_line l
            JOIN mandate m ON m.id = l.mandate_id
            JOIN party p ON p.id = m.party_id
            WHERE l.bank_file_id = ?
            ORDER BY l.id
            SQL
            ,
            [$fileId],
        );
    }
}
