<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** An order that is worked on: nobody else changes it before the end of the transaction. */
final readonly class OrderLock
{
    public function __construct(private EntityManagerInterface $entities)
    {
    }

    /**
     * @param int|null $version of the order on the page that is worked from; null when there was no page
     *
     * @throws Refused when there is none, it is closed, or it is another one by now
     */
    public function locked(Actor $actor, int $id, ?int $version): PurchaseOrder
    {
        $order = $this->entities->find(PurchaseOrder::class, $id, LockMode::PESSIMISTIC_WRITE);
        if (null === $order || $order->companyId !== $actor->companyId) {
            throw Refused::because('', 'There is no such order in this company.', ProblemKind::Unknown);
        }
        $this->entities->refresh($order, LockMode::PESSIMISTIC_WRITE);
        if (null !== $order->closedOn) {
            throw Refused::because(
                '',
                \sprintf('%s was closed on %s.', $order->number, $order->closedOn->long()),
                ProblemKind::Taken,
            );
        }
        if (null !== $version && $order->version !== $version) {
            throw Refused::because(
                '',
                \sprintf('%s was changed since this page was loaded; look at it as it stands now.', $order->number),
                ProblemKind::Taken,
            );
        }

        return $order;
    }
}
