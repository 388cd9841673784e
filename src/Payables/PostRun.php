<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\HandChecks;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Settlement\MoneyInput;
use Nelbix\App\Settlement\PostMoney;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;

/** Posts an approved run whose checks all came out: one payment and one settlement each, all or none. */
final readonly class PostRun
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private Connection $db,
        private ProposalDesk $desk,
        private PostMoney $postMoney,
        private HandChecks $handChecks,
        private History $history,
    ) {
    }

    /**
     * @return int how many payments were posted
     *
     * @throws Refused
     */
    public function post(Actor $actor, int $proposalId): int
    {
        return $this->transaction->run(function () use ($actor, $proposalId): int {
            $items = $this->items($actor, $proposalId);
            $proposal = $this->desk->lock($actor, $proposalId, [ProposalState::Approved, ProposalState::Printed]);
            $payments = $this->desk->payments($proposal);
            if ([] === $payments) {
                throw Refused::because('', 'Everything was dropped from this run; there is nothing to post.');
            }
            $checks = [];
            foreach ($this->db->iterateAssociative("SELECT payment, number, amount FROM bank_check WHERE proposal_id = ? AND state = 'printed' ORDER BY number FOR UPDATE", [$proposal->id]) as $r) {
                $checks[(int) $r['payment']] = ['number' => (int) $r['number'], 'amount' => (int) $r['amount']];
            }
            $this->sinceApproval($proposal);
            $this->destinations($proposal);
            $inputs = [];
            foreach ($payments as $k => $payment) {
                $inputs[] = $this->money($proposal, $payment['record'], $payment['lines'], $payment['amount'], $items, $checks[$k] ?? null);
            }
            $documents = array_combine(array_keys($payments), $this->postMoney->postAll($actor, $inputs));
            $this->remember($proposal, $documents);
            foreach ($documents as $k => $documentId) {
                $record = $payments[$k]['record'];
                if (PayBy::HandCheck === $record->payBy) {
                    $this->handChecks->issue($proposal->bankAccountId, $record->reference, $record->partyId, $documentId, $payments[$k]['amount'], $proposal->payDate);
                }
            }
            $proposal->state = ProposalState::Posted;
            $this->entities->flush();
            $this->db->executeStatement('UPDATE open_item SET reserved_by_id = NULL WHERE reserved_by_id = ?', [$proposal->id]);
            $this->history->note($actor, 'proposal', $proposal->id(), 'posted', \sprintf('%d payments', \count($payments)));

            return \count($payments);
        });
    }

    /**
     * Writes the payments' documents to the run and its checks, which are issued by that.
     *
     * @param array<int, int> $documents by number of the payment
     */
    private function remember(Proposal $proposal, array $documents): void
    {
        foreach (array_chunk($documents, 1000, true) as $chunk) {
            $rows = implode(' UNION ALL ', array_map(static fn (int $payment, int $id): string => \sprintf('SELECT %d AS payment, %d AS document_id', $payment, $id), array_keys($chunk), $chunk));
            $this->db->executeStatement('UPDATE proposal_payment y JOIN ('.$rows.') m ON m.payment = y.payment SET y.document_id = m.document_id WHERE y.proposal_id = ?', [$proposal->id]);
        }
        $this->db->executeStatement("UPDATE bank_check k JOIN proposal_payment y ON y.proposal_id = k.proposal_id AND y.payment = k.payment SET k.document_id = y.document_id, k.state = 'issued' WHERE k.proposal_id = ? AND k.state = 'printed'", [$proposal->id]);
    }

    /**
     * Locks the items of the run in order of id.
     *
     * @return array<int, array{open: int, number: string, currency: string}>
     */
    private function items(Actor $actor, int $proposalId): array
    {
        $items = [];
        foreach ($this->db->iterateAssociative('SELECT i.id, i.open, i.number, i.currency FROM open_item i JOIN proposal_line l ON l.item_id = i.id WHERE l.proposal_id = ? AND l.is_in = 1 AND l.dropped = 0 AND i.company_id = ? ORDER BY i.id FOR UPDATE', [$proposalId, $actor->companyId]) as $r) {
            $items[(int) $r['id']] = ['open' => (int) $r['open'], 'number' => (string) $r['number'], 'currency' => (string) $r['currency']];
        }

        return $items;
    }

    /** @throws Refused when an item was held, or its vendor stopped, after the run was approved: who approved it did not know */
    private function sinceApproval(Proposal $proposal): void
    {
        $from = 'FROM proposal r JOIN proposal_line l ON l.proposal_id = r.id AND l.is_in = 1 AND l.dropped = 0 JOIN open_item i ON i.id = l.item_id';
        $held = $this->db->fetchAssociative("SELECT i.number, d.held_reason $from JOIN document d ON d.id = i.document_id WHERE r.id = ? AND d.held_reason IS NOT NULL AND EXISTS (SELECT 1 FROM history h WHERE h.company_id = r.company_id AND h.subject = 'document' AND h.subject_id = d.id AND h.action = 'held' AND h.happened_at >= r.decided_at) LIMIT 1", [$proposal->id]);
        if (false !== $held) {
            throw Refused::because('', \sprintf('%s is held since the run was approved: %s. Release it first; nothing of the run is posted.', $held['number'], $held['held_reason']));
        }
        $stopped = $this->db->fetchAssociative("SELECT p.name, s.reason $from JOIN party p ON p.id = i.party_id JOIN party_stop s ON s.party_id = p.id AND s.what = 'payment' WHERE r.id = ? AND s.set_at >= r.decided_at AND (s.ends_on IS NULL OR s.ends_on >= r.pay_date) LIMIT 1", [$proposal->id]);
        if (false !== $stopped) {
            throw Refused::because('', \sprintf('Payments to %s are stopped since the run was approved: %s. Take the stop away first; nothing of the run is posted.', $stopped['name'], $stopped['reason']));
        }
    }

    /** @throws Refused while money would go to an account that nobody confirmed, or there is none */
    private function destinations(Proposal $proposal): void
    {
        $name = $this->db->fetchOne(
            "SELECT p.name FROM proposal_payment y JOIN party p ON p.id = y.party_id LEFT JOIN party_bank b ON b.id = y.party_bank_id WHERE y.proposal_id = ? AND y.pay_by = 'file'
             AND (IF(b.id IS NULL, p.bank_confirmed, b.confirmed) = 0 OR (b.id IS NULL AND p.iban = '' AND (p.routing_number = '' OR p.account_number = '')))
             AND EXISTS (SELECT 1 FROM proposal_line l WHERE l.proposal_id = y.proposal_id AND l.payment = y.payment AND l.is_in = 1 AND l.dropped = 0) LIMIT 1", [$proposal->id]);
        if (false !== $name) {
            throw Refused::because('', \sprintf('The bank details of %s are missing or await a second person; have them confirmed, or pay another way.', $name));
        }
    }

    /**
     * @param non-empty-list<ProposalLine>                                   $lines
     * @param array<int, array{open: int, number: string, currency: string}> $items
     * @param array{number: int, amount: int}|null                           $check
     */
    private function money(Proposal $proposal, ProposalPayment $record, array $lines, int $amount, array $items, ?array $check): MoneyInput
    {
        if (PayBy::Check === $record->payBy && null === $check) {
            throw Refused::because('', 'Some checks have not come out of the printer yet; print them and say what came out first.');
        }
        if (null !== $check && $check['amount'] !== $amount) {
            throw Refused::because('', \sprintf('Check %d was printed for another amount than its payment has now.', $check['number']));
        }
        if ($record->payBy->needsReference() && '' === $record->reference) {
            throw Refused::because('reference', 'A check written by hand has no number yet; type it beside its payment.');
        }
        $placements = [];
        $adjustments = [];
        foreach ($lines as $line) {
            $item = $items[$line->itemId] ?? throw Refused::because('', 'An item of the run is gone; load the page anew.');
            if ($item['open'] !== $line->open) {
                throw Refused::because('', \sprintf('%s changed since the proposal was made; drop it and propose again.', $item['number']));
            }
            $placements[] = ['item' => $line->itemId, 'applied' => $line->applied];
            foreach ([[AdjustmentKind::Discount, $line->discount], [AdjustmentKind::Withholding, $line->withholding]] as [$kind, $part]) {
                if (0 !== $part) {
                    $adjustments[] = ['item' => $line->itemId, 'kind' => $kind, 'amount' => -$part];
                }
            }
        }
        $reference = match ($record->payBy) {
            PayBy::Check => 'check '.($check['number'] ?? ''),
            PayBy::HandCheck => 'check '.$record->reference,
            default => $record->reference,
        };

        return new MoneyInput(Side::Payables, DocumentKind::Payment, $record->partyId, $proposal->bankAccountId, $proposal->payDate, $items[$lines[0]->itemId]['currency'], $amount, $reference, $record->payBy->value, $placements, $adjustments, null, $proposal->id);
    }
}
