<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Sends an order to its vendor, from the page of the order. */
#[Route('/{company}/orders/{id<\d+>}/send', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class OrderSendController extends Screen
{
    #[Route('', name: 'order_send', methods: ['POST'])]
    #[Needs(Permission::EnterOrders)]
    public function send(Desk $desk, int $id, SendOrder $send): Response
    {
        return $this->act(
            static fn (): string => \sprintf(
                'It waits in the outbox for %s.',
                $send->send($desk->actor, $desk->company, $id),
            ),
            'order',
            ['company' => $desk->company->code, 'id' => $id],
        );
    }
}
