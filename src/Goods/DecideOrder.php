<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Approval;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Approves or refuses an order above the limit, by somebody else's word; and closes one for which nothing more is to come. */
final readonly class DecideOrder
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private OrderLock $orders,
        private SomebodyElse $somebodyElse,
        private BooksDay $booksDay,
        private History $history,
    ) {
    }

    /**
     * @param int|null $version of the order on the page that the person looked at; null when there was no page
     *
     * @throws Refused also when it is another one by now
     */
    public function decide(Actor $actor, int $id, bool $approve, string $reason, ?int $version): PurchaseOrder
    {
        return $this->transaction->run(function () use ($actor, $id, $approve, $reason, $version): PurchaseOrder {
            $order = $this->orders->locked($actor, $id, $version);
            if (Approval::Awaiting !== $order->approval) {
                throw Refused::because('', \sprintf('%s awaits no approval.', $order->number), ProblemKind::Taken);
            }
            $this->somebodyElse->mustBe(
                $actor,
                'purchase order',
                $id,
                $order->createdById,
                'Somebody else must decide on this; you ordered it, or changed it.',
            );
            if ($approve) {
                $this->somebodyElse->within($actor, $order->worth, (string) $order->number);
            } elseif ('' === trim($reason)) {
                throw Refused::because(
                    'reason',
                    'Say why it is refused; whoever ordered reads it.',
                    ProblemKind::Missing,
                );
            }
            $order->approval = $approve ? Approval::Approved : Approval::Refused;
            $this->entities->flush();
            $this->history->note(
                $actor,
                'purchase_order',
                $id,
                $approve ? 'approved' : 'refused',
                mb_substr(trim($reason), 0, 255),
            );

            return $order;
        });
    }

    /** @throws Refused without a reason, or when it is closed */
    public function close(Actor $actor, int $id, string $reason): PurchaseOrder
    {
        return $this->transaction->run(function () use ($actor, $id, $reason): PurchaseOrder {
            $order = $this->orders->locked($actor, $id, null);
            if ('' === trim($reason)) {
                throw Refused::because(
                    'reason',
                    'Say why nothing more is to come; the history keeps your words.',
                    ProblemKind::Missing,
                );
            }
            $this->nothingWaits($order);
            $order->closedOn = $this->booksDay->of($actor->companyId);
            $order->closedWhy = mb_substr(trim($reason), 0, 255);
            $this->entities->flush();
            $this->history->note($actor, 'purchase_order', $id, 'closed', $order->closedWhy);

            return $order;
        });
    }

    /** @throws Refused while an invoice waits for some of it */
    private function nothingWaits(PurchaseOrder $order): void
    {
        $waits = $this->entities->getConnection()->fetchFirstColumn(
            <<<'SQL'
            SELECT DISTINCT d.number
            FROM purchase_order_line n
            JOIN goods_awaited w ON w.order_line_id = n.id AND w.open_quantity > 0
            JOIN document d ON d.id = w.document_id
            WHERE n.order_id = ?
            ORDER BY 1
            SQL
            ,
            [$order->id()],
        );
        if ([] !== $waits) {
            throw Refused::because(
                '',
                \sprintf(
                    '%s waits for goods of %s; reverse it, or clear what never comes, before the order is closed.',
                    implode(', ', $waits),
                    $order->number,
                ),
            );
        }
    }
}
