<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccount;
use Nelbix\App\Bank\BankCheck;
use Nelbix\App\Bank\CheckState;
use Nelbix\App\Documents\OpenItemRecord;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Settlement\MoneyInput;
use Nelbix\App\Settlement\PostMoney;
use Nelbix\App\Settlement\SettlementBook;
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
        private ProposalDesk $desk,
        private PostMoney $postMoney,
        private SettlementBook $book,
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
            $ids = array_map('intval', $this->entities->getConnection()->fetchFirstColumn('SELECT item_id FROM proposal_line WHERE proposal_id = ? AND is_in = 1 AND dropped = 0', [$proposalId]));
            $items = $this->book->lock($actor, $ids);
            $proposal = $this->desk->lock($actor, $proposalId, [ProposalState::Printed]);
            $bank = $this->entities->find(BankAccount::class, $proposal->bankAccountId) ?? throw Refused::because('bank', 'The bank account of this run is gone.');
            $checks = [];
            foreach ($this->entities->getRepository(BankCheck::class)->findBy(['proposalId' => $proposal->id]) as $check) {
                if (CheckState::Printed === $check->state) {
                    $checks[(int) $check->payment] = $check;
                }
            }
            $payments = $this->desk->payments($proposal);
            $inputs = [];
            foreach ($payments as $k => $payment) {
                $check = $checks[$k] ?? throw Refused::because('', 'Some checks have not come out of the printer yet; say what printed first.');
                if ($check->amount !== $payment['amount']) {
                    throw Refused::because('', \sprintf('Check %d was printed for another amount than its payment has now.', $check->number));
                }
                $inputs[] = $this->payment($proposal, $bank, $payment['lines'], $payment['amount'], (string) $check->number, $items);
            }
            if ([] === $inputs) {
                throw Refused::because('', 'Everything was dropped from this run; there is nothing to post.');
            }
            foreach (array_combine(array_keys($payments), $this->postMoney->postAll($actor, $inputs)) as $k => $documentId) {
                $checks[$k]->documentId = $documentId;
                $checks[$k]->state = CheckState::Issued;
            }
            $proposal->state = ProposalState::Posted;
            $this->entities->getConnection()->executeStatement('UPDATE open_item SET reserved_by_id = NULL WHERE reserved_by_id = ?', [$proposal->id]);
            foreach ($items as $item) {
                $item->reservedById = null;
            }
            $this->history->note($actor, 'proposal', $proposal->id(), 'posted', \sprintf('%d payments', \count($payments)));

            return \count($payments);
        });
    }

    /**
     * @param non-empty-list<ProposalLine> $lines
     * @param array<int, OpenItemRecord>   $items
     */
    private function payment(Proposal $proposal, BankAccount $bank, array $lines, int $amount, string $check, array $items): MoneyInput
    {
        $placements = [];
        $adjustments = [];
        foreach ($lines as $line) {
            $item = $items[$line->itemId];
            if ($item->open !== $line->open) {
                throw Refused::because('', \sprintf('%s changed since the proposal was made; drop it and propose again.', $item->number));
            }
            $placements[] = ['item' => $line->itemId, 'applied' => $line->applied];
            if (0 !== $line->discount) {
                $adjustments[] = ['item' => $line->itemId, 'kind' => AdjustmentKind::Discount, 'amount' => -$line->discount];
            }
            if (0 !== $line->withholding) {
                $adjustments[] = ['item' => $line->itemId, 'kind' => AdjustmentKind::Withholding, 'amount' => -$line->withholding];
            }
        }

        return new MoneyInput(
            Side::Payables, DocumentKind::Payment, $items[$lines[0]->itemId]->partyId, $bank->id(), $proposal->payDate, $items[$lines[0]->itemId]->currency,
            $amount, 'check '.$check, $proposal->method, $placements, $adjustments, null, $proposal->id,
        );
    }
}
