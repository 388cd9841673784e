<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\HandChecks;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Settlement\MoneyInput;
use Nelbix\App\Settlement\PostMoney;
use Nelbix\App\Work\LongWork;
use Nelbix\App\Work\Slice;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;
use Symfony\Component\DependencyInjection\Attribute\Autowire;

/** Posts a run that was started, so many payments at a time: each payment with its settlement, its check and its number once or not at all. */
final readonly class PostRun implements LongWork
{
    /** A payment "y" of the run that has something to pay and is not posted. */
    public const TO_POST = 'y.document_id IS NULL AND EXISTS (SELECT 1 FROM proposal_line l WHERE l.proposal_id = y.proposal_id AND l.payment = y.payment AND l.is_in = 1 AND l.dropped = 0)';

    /** @param int<1, max> $sliceSize payments in a slice */
    public function __construct(
        private EntityManagerInterface $entities,
        private Connection $db,
        private ProposalDesk $desk,
        private RunCheck $check,
        private PostMoney $postMoney,
        private HandChecks $handChecks,
        private History $history,
        #[Autowire('%nelbix.run_slice%')]
        private int $sliceSize,
    ) {
    }

    public function kind(): string
    {
        return 'run';
    }

    public function seenWith(): Permission
    {
        return Permission::SeePayables;
    }

    public function route(): string
    {
        return 'proposal';
    }

    public function slice(Actor $actor, int $subjectId): Slice
    {
        // checks written by hand come first, in the order of their numbers: their book hands them out so
        $next = array_map('intval', $this->db->fetchFirstColumn('SELECT y.payment FROM proposal_payment y WHERE y.proposal_id = ? AND '.self::TO_POST." ORDER BY y.pay_by = 'hand' DESC, IF(y.pay_by = 'hand', LENGTH(y.reference), 0), IF(y.pay_by = 'hand', y.reference, ''), y.payment LIMIT ".($this->sliceSize + 1), [$subjectId]));
        $more = \count($next) > $this->sliceSize;
        $next = \array_slice($next, 0, $this->sliceSize);
        $items = $this->items($actor, $subjectId, $next);
        $proposal = $this->desk->lock($actor, $subjectId, [ProposalState::Posting]);
        if ([] !== $next) {
            $this->check->mayPost($proposal);
            $this->post($actor, $proposal, $next, $items);
        }
        if (!$more) {
            $proposal->state = ProposalState::Posted;
            $this->entities->flush();
            $this->db->executeStatement('UPDATE open_item SET reserved_by_id = NULL WHERE reserved_by_id = ?', [$proposal->id]);
            $this->history->note($actor, 'proposal', $proposal->id(), 'posted', \sprintf('%d payments', (int) $this->db->fetchOne('SELECT COUNT(*) FROM proposal_payment WHERE proposal_id = ? AND document_id IS NOT NULL', [$proposal->id])));
        }

        return new Slice(\count($next), $more);
    }

    /**
     * @param non-empty-list<int>                                                           $numbers of the payments
     * @param array<int, array{open: int, number: string, currency: string, refunds: ?int}> $items
     */
    private function post(Actor $actor, Proposal $proposal, array $numbers, array $items): void
    {
        $payments = $this->desk->payments($proposal, $numbers);
        $checks = array_map('intval', $this->db->fetchAllKeyValue("SELECT payment, number FROM bank_check WHERE proposal_id = ? AND state = 'printed' AND payment IN (?) ORDER BY number FOR UPDATE", [$proposal->id, $numbers], [1 => ArrayParameterType::INTEGER]));
        $inputs = [];
        foreach ($numbers as $k) {
            $payment = $payments[$k] ?? throw Refused::because('', 'A payment of the run is gone; load the page anew.');
            $inputs[] = $this->money($proposal, $payment['record'], $payment['lines'], $payment['amount'], $items, $checks[$k] ?? null);
        }
        $documents = array_combine($numbers, $this->postMoney->postAll($actor, $inputs));
        $this->remember($proposal, $documents);
        foreach ($documents as $k => $documentId) {
            $record = $payments[$k]['record'];
            if (PayBy::HandCheck === $record->payBy) {
                $this->handChecks->issue($proposal->bankAccountId, $record->reference, $record->partyId, $documentId, $payments[$k]['amount'], $proposal->payDate);
            }
        }
    }

    /**
     * Writes the payments' documents to the run and its checks, which are issued by that.
     *
     * @param array<int, int> $documents by number of the payment
     */
    private function remember(Proposal $proposal, array $documents): void
    {
        $rows = implode(' UNION ALL ', array_map(static fn (int $payment, int $id): string => \sprintf('SELECT %d AS payment, %d AS document_id', $payment, $id), array_keys($documents), $documents));
        $this->db->executeStatement('UPDATE proposal_payment y JOIN ('.$rows.') m ON m.payment = y.payment SET y.document_id = m.document_id WHERE y.proposal_id = ?', [$proposal->id]);
        $this->db->executeStatement("UPDATE bank_check k JOIN ($rows) m ON m.payment = k.payment SET k.document_id = m.document_id, k.state = 'issued' WHERE k.proposal_id = ? AND k.state = 'printed'", [$proposal->id]);
    }

    /**
     * Locks the items of these payments in order of id.
     *
     * @param list<int> $numbers
     *
     * @return array<int, array{open: int, number: string, currency: string, refunds: ?int}>
     */
    private function items(Actor $actor, int $proposalId, array $numbers): array
    {
        $items = [];
        foreach ($this->db->iterateAssociative("SELECT i.id, i.open, i.number, i.currency, IF(i.kind = 'refund_request', i.account_id, NULL) AS refunds FROM open_item i JOIN proposal_line l ON l.item_id = i.id WHERE l.proposal_id = ? AND l.is_in = 1 AND l.dropped = 0 AND l.payment IN (?) AND i.company_id = ? ORDER BY i.id FOR UPDATE", [$proposalId, $numbers, $actor->companyId], [1 => ArrayParameterType::INTEGER]) as $r) {
            $items[(int) $r['id']] = ['open' => (int) $r['open'], 'number' => (string) $r['number'], 'currency' => (string) $r['currency'], 'refunds' => null === $r['refunds'] ? null : (int) $r['refunds']];
        }

        return $items;
    }

    /**
     * @param non-empty-list<ProposalLine>                                                  $lines
     * @param array<int, array{open: int, number: string, currency: string, refunds: ?int}> $items
     */
    private function money(Proposal $proposal, ProposalPayment $record, array $lines, int $amount, array $items, ?int $check): MoneyInput
    {
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
            PayBy::Check => 'check '.($check ?? throw Refused::because('', 'A check of the run is gone from its register; load the page anew.')),
            PayBy::HandCheck => 'check '.$record->reference,
            default => $record->reference,
        };

        return new MoneyInput(Side::Payables, DocumentKind::Payment, $record->partyId, $proposal->bankAccountId, $proposal->payDate, $items[$lines[0]->itemId]['currency'], $amount, $reference, $record->payBy->value, $placements, $adjustments, null, $proposal->id, $items[$lines[0]->itemId]['refunds']);
    }
}
