<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\WaitingLine;
use Nelbix\App\Platform\Waits;

/** Deliveries that wait for their invoice, orders that wait for a decision, and those that are late. */
final readonly class WaitingDeliveries implements Waits
{
    public function __construct(private DeliveryListQuery $deliveries, private OrderListQuery $orders)
    {
    }

    public function lines(Desk $desk): iterable
    {
        if (!$desk->may(Permission::SeeDeliveries)) {
            return;
        }
        $foot = $this->deliveries->foot($desk->id());
        yield new WaitingLine(
            WaitingLine::GOODS,
            10,
            'deliveries',
            'deliveries are received and not invoiced',
            $foot['count'],
            $foot['base'],
            'deliveries',
            [],
            'See them',
        );
        if (!$desk->may(Permission::SeeOrders)) {
            return;
        }
        $lists = [
            'approval' => [
                20,
                'orders await approval',
                'Decide',
                $desk->may(Permission::Approve) || $desk->may(Permission::EnterOrders),
            ],
            'late' => [40, 'orders are late', 'Ask for them', true],
        ];
        foreach ($lists as $show => [$place, $text, $do, $seen]) {
            $waits = $seen ? $this->orders->waiting($desk->id(), $show, $desk->today) : ['count' => 0, 'worth' => 0];
            yield new WaitingLine(
                WaitingLine::GOODS,
                $place,
                'orders_'.$show,
                $text,
                $waits['count'],
                $waits['worth'],
                'orders',
                ['show' => $show],
                $do,
            );
        }
    }
}
