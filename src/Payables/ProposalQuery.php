<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Proposal\Reason;

/**
 * Reads a proposal for its pages and papers, as scalar rows.
 *
 * @phpstan-type Line array{id: int, item_id: int, payment: ?int, is_in: bool, dropped: bool, added: bool, reason: string, why: string,
 *     open: int, applied: int, original: int, discount: int, offered: int, withholding: int, pay: int, stake: int, number: string,
 *     their_number: string, document_id: int, due_date: string, document_date: string, currency: string, code: string, name: string,
 *     party_id: int, reserved_by: ?string, paper: bool}
 * @phpstan-type Payment array{payment: int, party_id: int, code: string, name: string, pay_by: PayBy, bank: string, bank_id: ?int,
 *     reference: string, note: string, document_id: ?int, document: ?string, stands: bool, email: string, items: int, dropped: int,
 *     gross: int, discount: int, withholding: int, pay: int, check_number: ?int, check_state: ?string, check_book: ?int,
 *     entry: ?string, changed: bool}
 */
final readonly class ProposalQuery
{
    private const INTS = [
        'id',
        'item_id',
        'open',
        'applied',
        'original',
        'discount',
        'offered',
        'withholding',
        'pay',
        'stake',
        'document_id',
        'party_id',
    ];

    public function __construct(private Connection $db)
    {
    }

    /** So many proposals stand in their list; a file has them all. */
    public const LISTED = 200;

    /** @return list<array<string, mixed>> the newest first */
    public function list(int $companyId, ?int $most = self::LISTED): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT p.id, p.number, p.state, p.pay_date, p.method, u.name AS made_by, d.name AS decided_by, b.name AS bank,
                b.currency, COUNT(DISTINCT l.payment) AS payments, COALESCE(SUM(l.pay), 0) AS pay,
                COALESCE(SUM(l.discount), 0) AS discount
            FROM proposal p
            JOIN app_user u ON u.id = p.created_by_id
            LEFT JOIN app_user d ON d.id = p.decided_by_id
            JOIN bank_account b ON b.id = p.bank_account_id
            LEFT JOIN proposal_line l ON l.proposal_id = p.id AND l.is_in = 1 AND l.dropped = 0
            WHERE p.company_id = ?
            GROUP BY p.id, p.number, p.state, p.pay_date, p.method, u.name, d.name, b.name, b.currency
            ORDER BY p.id DESC

            SQL
            .(null === $most ? '' : 'LIMIT '.$most),
            [$companyId],
        );
    }

    /**
     * @param int|null $payment only its lines
     * @param bool|null $in those that are in (dropped ones too), or those that are out; null for both
     * @param int|null $item only this one
     *
     * @return list<Line> by vendor, payment, due date
     */
    public function lines(
        int $proposalId,
        ?bool $in,
        ?int $payment = null,
        ?int $limit = null,
        ?int $item = null,
    ): array {
        return iterator_to_array($this->each($proposalId, $in, $payment, $limit, $item), false);
    }

    /**
     * The same, one at a time.
     *
     * @return \Generator<int, Line>
     */
    public function each(
        int $proposalId,
        ?bool $in = null,
        ?int $payment = null,
        ?int $limit = null,
        ?int $item = null,
    ): \Generator {
        $rows = $this->db->iterateAssociative(
            <<<SQL
            SELECT l.id, l.item_id, l.payment, l.is_in, l.dropped, l.added, l.reason, l.open, l.applied, i.original, l.discount,
                l.offered, l.withholding, l.pay, l.stake, i.number, d.their_number, d.id AS document_id, i.due_date,
                i.document_date, i.currency, p.code, p.name, p.id AS party_id,
                IF(i.reserved_by_id <> l.proposal_id, i.reserved_as, NULL) AS reserved_by,
                EXISTS (SELECT 1 FROM stored_file f WHERE f.company_id = i.company_id AND f.subject = 'paper'
                AND f.subject_id = d.id) AS paper
            FROM proposal_line l
            JOIN open_item i ON i.id = l.item_id
            JOIN document d ON d.id = i.document_id
            JOIN party p ON p.id = i.party_id
            WHERE l.proposal_id = ?
            SQL
            .
                (null === $in ? '' : ' AND l.is_in = '.(int) $in).
                (null === $payment ? '' : ' AND l.payment = '.$payment).
                (null === $item ? '' : ' AND l.item_id = '.$item).
                ' ORDER BY p.code, l.payment, i.due_date, i.id'.
                (null === $limit ? '' : ' LIMIT '.$limit),
            [$proposalId],
        );

        foreach ($rows as $r) {
            yield self::line($r);
        }
    }

    /**
     * @param array<string, mixed> $r
     *
     * @return Line
     */
    private static function line(array $r): array
    {
        foreach (self::INTS as $int) {
            $r[$int] = (int) $r[$int];
        }

        /** @var Line */
        return [
            ...$r,
            'payment' => null === $r['payment'] ? null : (int) $r['payment'],
            'is_in' => (bool) $r['is_in'],
            'dropped' => (bool) $r['dropped'],
            'added' => (bool) $r['added'],
            'paper' => (bool) $r['paper'],
            'why' => Reason::from((string) $r['reason'])->words(),
        ];
    }

    /** @return array<int, Payment> by number in the run; in order of vendor */
    public function payments(int $proposalId): array
    {
        $payments = [];
        foreach (
            $this->db->iterateAssociative(
                <<<SQL
                SELECT y.payment, y.party_id, p.code, p.name, p.email, y.pay_by, y.party_bank_id, y.reference, y.note,
                    y.document_id, d.number AS document, d.state AS document_state, COALESCE(b.iban, p.iban) AS iban,
                    COALESCE(b.routing_number, p.routing_number) AS routing,
                    COALESCE(b.account_number, p.account_number) AS account, l.n, l.dropped, l.gross, l.discount, l.withholding,
                    l.pay, l.changed, k.number AS check_number, k.state AS check_state, k.check_book_id,
                    (SELECT e.number FROM journal_entry e WHERE e.source_kind = 'document' AND e.source_id = y.document_id
                        LIMIT 1) AS entry
                FROM proposal_payment y
                JOIN (SELECT payment, COUNT(*) AS n, SUM(dropped) AS dropped, SUM(IF(dropped = 0, applied, 0)) AS gross,
                    SUM(IF(dropped = 0, discount, 0)) AS discount, SUM(IF(dropped = 0, withholding, 0)) AS withholding,
                    SUM(IF(dropped = 0, pay, 0)) AS pay, SUM(applied <> open OR discount <> offered OR added) AS changed
                    FROM proposal_line WHERE proposal_id = :id AND is_in = 1 GROUP BY payment) l ON l.payment = y.payment
                JOIN party p ON p.id = y.party_id
                LEFT JOIN party_bank b ON b.id = y.party_bank_id
                LEFT JOIN document d ON d.id = y.document_id
                LEFT JOIN bank_check k ON k.id = (SELECT m.id FROM bank_check m WHERE m.proposal_id = y.proposal_id
                    AND m.payment = y.payment AND m.state <> 'spoiled' ORDER BY m.number DESC LIMIT 1)
                WHERE y.proposal_id = :id
                ORDER BY p.code, y.payment
                SQL
                ,
                ['id' => $proposalId],
            ) as $r
        ) {
            $payments[(int) $r['payment']] = [
                'payment' => (int) $r['payment'],
                'party_id' => (int) $r['party_id'],
                'code' => (string) $r['code'],
                'name' => (string) $r['name'],
                'email' => (string) $r['email'],
                'pay_by' => PayBy::from((string) $r['pay_by']),
                'bank_id' => null === $r['party_bank_id'] ? null : (int) $r['party_bank_id'],
                'bank' => '' !== $r['iban']
                        ? (string) $r['iban']
                        : ('' === $r['account']
                            ? ''
                            : $r['routing'].' / …'.substr((string) $r['account'], -4)),
                'reference' => (string) $r['reference'],
                'note' => (string) $r['note'],
                'document_id' => null === $r['document_id'] ? null : (int) $r['document_id'],
                'document' => null === $r['document'] ? null : (string) $r['document'],
                'stands' => 'posted' === $r['document_state'],
                'items' => (int) $r['n'] - (int) $r['dropped'],
                'dropped' => (int) $r['dropped'],
                'gross' => (int) $r['gross'],
                'discount' => (int) $r['discount'],
                'withholding' => (int) $r['withholding'],
                'pay' => (int) $r['pay'],
                'changed' => (int) $r['changed'] > 0,
                'check_number' => null === $r['check_number'] ? null : (int) $r['check_number'],
                'check_state' => null === $r['check_state'] ? null : (string) $r['check_state'],
                'check_book' => null === $r['check_book_id'] ? null : (int) $r['check_book_id'],
                'entry' => null === $r['entry'] ? null : (string) $r['entry'],
            ];
        }

        return $payments;
    }

    /** The currency of what a proposal pays; null when nothing is in it. */
    public function currency(int $proposalId): ?string
    {
        $currency = $this->db->fetchOne(
            'SELECT i.currency FROM proposal_line l JOIN open_item i ON i.id = l.item_id WHERE l.proposal_id = ? AND l.is_in = 1 LIMIT 1',
            [$proposalId],
        );

        return false === $currency ? null : (string) $currency;
    }

    /**
     * @return array{gross: int, credits: int, discount: int, withholding: int, pay: int, lost: int, refused: int, items: int,
     *     out: array<string, int>} what is lost is at stake and not taken; out: how many by reason in words
     */
    public function totals(int $proposalId): array
    {
        $totals = [
            'gross' => 0,
            'credits' => 0,
            'discount' => 0,
            'withholding' => 0,
            'pay' => 0,
            'lost' => 0,
            'refused' => 0,
            'items' => 0,
            'out' => [],
        ];
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT l.is_in, l.dropped, l.reason, COUNT(*) AS n, SUM(IF(l.applied > 0, l.applied, 0)) AS gross,
                    SUM(IF(l.applied < 0, -l.applied, 0)) AS credits, SUM(l.discount) AS discount,
                    SUM(l.withholding) AS withholding, SUM(l.pay) AS pay, SUM(l.stake) AS stake,
                    SUM(IF(l.stake > 0 AND l.discount < l.offered, LEAST(l.stake, l.offered - l.discount), 0)) AS refused
                FROM proposal_line l
                WHERE l.proposal_id = ?
                GROUP BY l.is_in, l.dropped, l.reason
                ORDER BY n DESC
                SQL
                ,
                [$proposalId],
            ) as $r
        ) {
            if ((bool) $r['is_in'] && !(bool) $r['dropped']) {
                foreach (['gross', 'credits', 'discount', 'withholding', 'pay'] as $key) {
                    $totals[$key] += (int) $r[$key];
                }
                $totals['items'] += (int) $r['n'];
                $totals['lost'] += (int) $r['refused'];
                continue;
            }
            $reason = Reason::from((string) $r['reason']);
            $totals['lost'] += $reason->losesDiscount() ? (int) $r['stake'] : 0;
            $why = (bool) $r['dropped'] ? 'dropped' : $reason->words();
            $totals['out'][$why] = ($totals['out'][$why] ?? 0) + (int) $r['n'];
        }

        return $totals;
    }

    /** @return array<string, mixed> who made it, who decided, whether this person touched it, what currency it pays, if anything */
    public function people(int $proposalId, int $userId): array
    {
        return $this->db->fetchAssociative(
            <<<'SQL'
            SELECT a.name AS made, b.name AS decided, h.id IS NOT NULL OR p.created_by_id = ? AS touched,
                (SELECT i.currency FROM proposal_line l JOIN open_item i ON i.id = l.item_id
                    WHERE l.proposal_id = p.id AND l.is_in = 1 LIMIT 1) AS currency
            FROM proposal p
            JOIN app_user a ON a.id = p.created_by_id
            LEFT JOIN app_user b ON b.id = p.decided_by_id
            LEFT JOIN hand_in h ON h.company_id = p.company_id AND h.subject = 'proposal' AND h.subject_id = p.id AND h.user_id = ?
            WHERE p.id = ?
            SQL
            ,
            [$userId, $userId, $proposalId],
        ) ?:
            [];
    }

    /** Its number; null when it is of another company. */
    public function number(int $companyId, int $id): ?string
    {
        $number = $this->db->fetchOne('SELECT number FROM proposal WHERE id = ? AND company_id = ?', [$id, $companyId]);

        return false === $number ? null : (string) $number;
    }
}
