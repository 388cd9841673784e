<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\CorrectedTax;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Invoices\InvoiceInput;
use Nelbix\App\Invoices\InvoicePlan;
use Nelbix\App\Invoices\InvoicePlanner;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Invoices\PostWithMoney;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Shares;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;
use Nelbix\Core\Terms\EarlyDiscount;
use Nelbix\Core\Terms\ScheduledPart;

/** Posts a customer invoice, and the money that came with it as a receipt placed on it, in one transaction. */
final readonly class PostInvoiceWithMoney implements PostWithMoney
{
    public function __construct(
        private Transaction $transaction,
        private PostInvoice $postInvoice,
        private PostMoney $postMoney,
        private InvoicePlanner $planner,
        private Connection $db,
        private BankAccounts $banks,
        private CorrectedTax $correctedTax,
    ) {
    }

    /**
     * Without money it is an invoice like any other.
     *
     * @return int the invoice's id
     *
     * @throws Refused
     */
    public function post(
        Actor $actor,
        InvoiceInput $input,
        ?FormKey $form = null,
        ?int $draftId = null,
        ?int $version = null,
    ): int {
        if (null === $input->moneyAmount) {
            return $this->postInvoice->post($actor, $input, $form, $draftId, $version);
        }

        return $this->transaction->once($actor, 'invoice', $form, function () use (
            $actor,
            $input,
            $draftId,
            $version,
        ): int {
            $id = $this->postInvoice->post($actor, $input, null, $draftId, $version);
            $items = array_map(
                'intval',
                $this->db->fetchFirstColumn('SELECT id FROM open_item WHERE document_id = ? ORDER BY part', [$id]),
            );
            $this->postMoney->post($actor, $this->money($actor, $input, $this->planner->plan($actor, $input), $items));

            return $id;
        });
    }

    public function preview(Actor $actor, InvoiceInput $input, InvoicePlan $plan): array
    {
        if (null === $input->moneyAmount) {
            return [];
        }
        $items = $this->planned($input, $plan);
        $drafts = $this->postMoney->preview(
            $actor,
            $this->money($actor, $input, $plan, array_keys($items)),
            $items,
            $this->correctedTax->planned($actor, $plan->tax, $plan->rate, array_keys($items)),
        );

        return ['The money that came with it' => $drafts['money'], 'Its settlement' => $drafts['settlement']];
    }

    /** @return array<int, OpenItem> the items that the invoice is going to raise, under ids that no stored item has */
    private function planned(InvoiceInput $input, InvoicePlan $plan): array
    {
        $items = [];
        $bases = Shares::split($plan->base, array_map(static fn (ScheduledPart $p): int => $p->amount, $plan->parts));
        foreach (0 === $plan->tax->total() ? [] : $plan->parts as $k => $part) {
            $items[-1 - $k] = new OpenItem(
                -1 - $k,
                $input->side,
                (int) $input->partyId,
                $input->kind,
                'this invoice',
                $plan->controlId,
                $input->currency,
                $part->amount,
                $bases[$k],
                $part->amount,
                $bases[$k],
                $plan->postingDate,
                $part->due,
            );
        }

        return $items;
    }

    /** @param list<int> $items of the invoice, in order of its parts; empty places nothing */
    private function money(Actor $actor, InvoiceInput $input, InvoicePlan $plan, array $items): MoneyInput
    {
        if (Side::Receivables !== $input->side || $input->kind->itemSign($input->side) < 0) {
            throw Refused::because(
                'money_amount',
                'Money comes with a customer invoice; enter it as a receipt otherwise.',
            );
        }
        $bank = $this->banks->named($actor->companyId, $input->moneyBank, 'money_bank');
        $left = (int) $input->moneyAmount;
        $placements = $adjustments = [];
        foreach ($items as $k => $item) {
            $part = $plan->parts[$k];
            if ($left <= 0 || $part->amount <= 0) {
                break;
            }
            $settled = (new EarlyDiscount(
                $part->amount,
                $part->discountBase,
                $part->discounts,
                $plan->graceDays,
            ))->onPayment($part->amount, $left, $plan->postingDate);
            // money for the whole is taken as such; only what is short is looked on as discount
            if ($left >= $part->amount) {
                $settled = ['settled' => $part->amount, 'discount' => 0];
            }
            $placements[] = new PlacementRequest($item, $settled['settled']);
            if ($settled['discount'] > 0) {
                $adjustments[] = new AdjustmentRequest($item, AdjustmentKind::Discount, -$settled['discount']);
            }
            $left -= $settled['settled'] - $settled['discount'];
        }

        return new MoneyInput(
            Side::Receivables,
            DocumentKind::Receipt,
            (int) $input->partyId,
            $bank->id,
            $plan->postingDate,
            $input->currency,
            (int) $input->moneyAmount,
            $input->moneyReference,
            'transfer',
            $placements,
            $adjustments,
            $plan->rate,
        );
    }
}
