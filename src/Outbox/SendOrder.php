<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Books\Approval;
use Nelbix\App\Goods\OrderPaper;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Sends an order to its vendor by mail. */
final readonly class SendOrder
{
    public function __construct(private Transaction $transaction, private OrderPaper $set, private SendPaper $send)
    {
    }

    /**
     * @return string whom it goes to
     *
     * @throws Refused when it is closed or not approved, or no address is known
     */
    public function send(Actor $actor, Company $company, int $id): string
    {
        $with = $this->set->of($company, $id);
        $order = $with['order'] ?? null;
        if (
            null === $with
            || null === $order
            || null !== $order->closedOn
            || !\in_array($order->approval, [Approval::None, Approval::Approved], true)
        ) {
            throw Refused::because('', 'Only an order that is approved and not closed is sent.', ProblemKind::Unknown);
        }

        return $this->transaction->run(
            fn (): string => $this->send->send(
                $actor,
                $company,
                [
                    'email' => (string) $with['party']['email'],
                    'name' => (string) $with['party']['name'],
                    'language' => (string) $with['party']['language'],
                ],
                'Order',
                (string) $order->number,
                'goods/order_pdf.html.twig',
                $with,
                ['purchase_order', $id, 'sent'],
                from: 'orders',
            ),
        );
    }
}
