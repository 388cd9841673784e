<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\DiscountSteps;
use Nelbix\App\Books\StoredItem;
use Nelbix\App\Books\WithholdingRules;
use Nelbix\App\Parties\PartyDetails;
use Nelbix\App\Platform\BooksDay;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Proposal\Candidate;
use Nelbix\Core\Proposal\IfPaidLate;
use Nelbix\Core\Proposal\Payee;

/** Reads what a payment proposal looks at: every open item of payables, one at a time. */
final readonly class CandidateQuery
{
    public function __construct(
        private Connection $db,
        private DiscountSteps $discountSteps,
        private WithholdingRules $withholding,
        private BooksDay $booksDay,
    ) {
    }

    /**
     * @param list<int> $itemIds only these; empty for all
     * @param int $own a proposal whose own reservations do not count
     *
     * @return list<Candidate> by vendor code, due date, id
     */
    public function open(int $companyId, array $itemIds = [], int $own = 0): array
    {
        return iterator_to_array($this->each($companyId, $itemIds, $own), false);
    }

    /**
     * The same, without holding them all.
     *
     * @param list<int> $itemIds
     *
     * @return \Generator<int, Candidate>
     */
    public function each(int $companyId, array $itemIds = [], int $own = 0): \Generator
    {
        $only = [] === $itemIds ? '' : ' AND i.id IN ('.implode(',', array_map('intval', $itemIds)).')';
        $discount = $this->discountSteps->reader($companyId, Side::Payables, [] === $itemIds ? null : $itemIds);
        $steps = DiscountSteps::STEPS;
        $withheld = $this->withholding->open($companyId, Side::Payables, [] === $itemIds ? null : $itemIds);
        $payees = [];
        $stopHolds = PartyDetails::stopHolds('?');
        $rows = $this->db->iterateAssociative(
            <<<SQL
            SELECT i.id, i.party_id, i.kind, i.number, i.account_id, i.currency, i.original, i.original_base, i.open, i.open_base,
                i.posting_date, i.due_date, i.document_date, p.code, p.method, p.if_late, p.separate_payments, p.party_group,
                EXISTS (SELECT 1 FROM party_stop s WHERE s.party_id = p.id AND s.what = 'payment' AND $stopHolds) AS payment_stop,
                p.bank_confirmed,
                (p.iban <> '' OR (p.routing_number <> '' AND p.account_number <> '')) AS has_bank, d.held_reason, d.approval,
                i.discount_base, i.grace_days, IF(i.reserved_by_id <> ?, i.reserved_as, NULL) AS reserved_by, $steps AS steps
            FROM open_item i
            JOIN party p ON p.id = i.party_id
            JOIN document d ON d.id = i.document_id
            WHERE i.company_id = ? AND i.side = 'payables' AND i.open <> 0$only
            ORDER BY p.code, i.due_date, i.id
            SQL
            ,
            [$this->booksDay->of($companyId)->iso(), $own, $companyId],
        );
        foreach ($rows as $r) {
            $party = (int) $r['party_id'];
            $payees[$party] ??= new Payee(
                $party,
                (string) $r['code'],
                (string) $r['method'],
                IfPaidLate::from((string) $r['if_late']),
                (bool) $r['payment_stop'],
                (bool) $r['bank_confirmed'] && ('transfer' !== $r['method'] || (bool) $r['has_bank']),
                (bool) $r['separate_payments'],
                (string) $r['party_group'],
            );
            $kind = DocumentKind::from((string) $r['kind']);
            $item = StoredItem::of($r, Side::Payables, $discount($r));
            yield new Candidate(
                $item,
                $payees[$party],
                null !== $r['held_reason'],
                \in_array($r['approval'], ['awaiting', 'refused'], true),
                DocumentKind::Prepayment === $kind,
                null === $r['reserved_by'] ? null : (string) $r['reserved_by'],
                $withheld[(int) $r['id']] ?? null,
            );
        }
    }
}
