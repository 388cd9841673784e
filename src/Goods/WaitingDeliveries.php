<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\WaitingLine;
use Nelbix\App\Platform\Waits;

/** Deliveries that wait for their invoice. */
final readonly class WaitingDeliveries implements Waits
{
    public function __construct(private DeliveryListQuery $deliveries)
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
    }
}
