<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\WaitingLine;
use Nelbix\App\Platform\Waits;
use Nelbix\Core\Ledger\Side;

/** Deliveries and invoices that wait for each other, orders that wait for a decision, and those that are late. */
final readonly class WaitingDeliveries implements Waits
{
    public function __construct(private OrderListQuery $orders)
    {
    }

    public function lines(Desk $desk): iterable
    {
        if (!$desk->may(Permission::SeeDeliveries)) {
            return;
        }
        $lines = ['deliveries' => [10, 'deliveries are received and not invoiced', 'not_invoiced', [], 'See them']];
        if ($desk->may(Permission::Approve) || $desk->may(Permission::EnterOrders)) {
            $lines['approval'] = [20, 'orders await approval', 'orders', ['show' => 'approval'], 'Decide'];
        }
        $lines['late'] = [40, 'orders are late', 'orders', ['show' => 'late'], 'Ask for them'];
        if ($desk->sees(Side::Payables)) {
            $lines['awaited'] = [30, 'invoices wait for goods', 'awaited', [], 'See them'];
        }
        $waits = $this->orders->waiting($desk->id(), $desk->today);
        foreach ($lines as $name => [$place, $text, $route, $parameters, $do]) {
            [$count, $worth] = $waits[$name];
            $key = 'deliveries' === $name ? $name : 'orders_'.$name;
            yield new WaitingLine(WaitingLine::GOODS, $place, $key, $text, $count, $worth, $route, $parameters, $do);
        }
    }
}
