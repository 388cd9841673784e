<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Approval;
use Nelbix\App\Goods\AccruedLine;
use Nelbix\App\Goods\AccruedLines;
use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\KeepOrder;
use Nelbix\App\Goods\OrderedLine;
use Nelbix\App\Goods\OrderedLines;
use Nelbix\App\Goods\OrderInput;
use Nelbix\App\Goods\PurchaseOrder;
use Nelbix\App\Goods\RecordDelivery;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\PricedAmount;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Orders, receives and invoices in one step, by whoever may do all three: an order, its deliveries and its invoice, or nothing. */
final readonly class BuyAtOnce
{
    /** Fields of delivery and invoice by what the form calls them. */
    private const FIELDS = [
        'number' => 'number',
        'document_date' => 'date',
        'posting_date' => 'date',
        'stated_total' => 'total',
        'look_alike_reason' => 'reason',
        'note_number' => 'note',
        'delivered_on' => 'came_on',
    ];

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private KeepOrder $keepOrder,
        private OrderedLines $ordered,
        private DeliveryReader $deliveryReader,
        private RecordDelivery $record,
        private AccruedLines $accrued,
        private InvoiceReader $invoiceReader,
        private PostInvoice $postInvoice,
    ) {
    }

    /**
     * @param array<mixed> $paper number, date and total of the invoice, note and day (came_on) of the delivery; that day is the invoice's
     *                            when it is empty; the reason why it is another one than it looks like, and that a far day is meant
     *
     * @return int the invoice's id
     *
     * @throws Refused with the fields of the papers as at_once.number and so on; an order that needs approval is not received at once
     */
    public function buy(Actor $actor, OrderInput $input, array $paper, ?FormKey $form = null): int
    {
        return $this->transaction->once($actor, 'bought at once', $form, function () use ($actor, $input, $paper): int {
            $id = $this->keepOrder->enter($actor, $input);
            $order = $this->entities->find(PurchaseOrder::class, $id) ?? throw new \LogicException();
            if (Approval::Awaiting === $order->approval) {
                throw Refused::because(
                    '',
                    'An order of this amount awaits approval before anything is taken for it; order it by itself.',
                );
            }
            try {
                return $this->post($actor, $id, (string) $input->party?->code, new Fields($paper));
            } catch (Refused $e) {
                throw Refused::all(array_map(self::renamed(...), $e->problems));
            }
        });
    }

    private function post(Actor $actor, int $orderId, string $party, Fields $paper): int
    {
        $goods = $this->receive($actor, $this->ordered->ofOrder($orderId), $paper);
        $invoice = $this->invoiceReader->read($actor, Side::Payables, [
            'party' => $party,
            'number' => $paper->text('number'),
            'document_date' => $paper->text('date'),
            'stated_total' => $paper->text('total'),
            'look_alike_reason' => $paper->text('reason'),
            'day_meant' => $paper->text('day_meant'),
            'currency' => $goods[0]->currency,
            'lines' => array_map(self::line(...), $goods),
        ]);

        return $this->postInvoice->post($actor, $invoice);
    }

    /**
     * Goods and services are a delivery each.
     *
     * @param list<OrderedLine> $lines
     *
     * @return list<AccruedLine>
     */
    private function receive(Actor $actor, array $lines, Fields $paper): array
    {
        $goods = [];
        foreach ([false, true] as $services) {
            $rows = array_values(array_filter($lines, static fn (OrderedLine $l): bool => $l->service === $services));
            if ([] === $rows) {
                continue;
            }
            $delivery = $this->deliveryReader->read($actor, [
                'delivered_on' => '' === $paper->text('came_on') ? $paper->text('date') : $paper->text('came_on'),
                'note_number' => $paper->text('note'),
                'lines' => array_map(
                    static fn (OrderedLine $l): array => [
                        'order_line' => (string) $l->id,
                        'quantity' => (string) $l->quantity,
                    ],
                    $rows,
                ),
            ]);
            $id = $this->record->record($actor, $delivery, null, $services);
            array_push($goods, ...array_values($this->accrued->ofDelivery($actor->companyId, $id)));
        }

        return $goods;
    }

    /** @return array<string, string> */
    private static function line(AccruedLine $l): array
    {
        return [
            'delivery_line' => (string) $l->id,
            'account' => $l->accountNumber,
            'text' => $l->text,
            'tax_code' => $l->taxCode,
            'amount' => PricedAmount::typed(
                (string) $l->left->quantity->stripTrailingZeros(),
                (string) $l->price,
                0,
                $l->currency,
            ),
            ...$l->codes,
        ];
    }

    private static function renamed(Problem $p): Problem
    {
        return isset(self::FIELDS[$p->field])
            ? new Problem('at_once.'.self::FIELDS[$p->field], $p->message, null, ProblemKind::Wrong)
            : $p;
    }
}
