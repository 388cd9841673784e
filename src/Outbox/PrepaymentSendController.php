<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Requests for prepayments by mail. */
final class PrepaymentSendController extends Screen
{
    #[Route(
        '/{company}/receivables/prepayments/{id<\d+>}/send',
        name: 'prepayment_request_send',
        requirements: ['company' => '[A-Z0-9]{2,12}'],
        methods: ['POST'],
    ),]
    #[Needs(Permission::EnterReceivables)]
    public function send(Desk $desk, int $id, SendPrepaymentRequest $send): Response
    {
        return $this->act(
            static fn (): string => \sprintf(
                'The request to %s lies in the outbox.',
                $send->send($desk->actor, $desk->company, $id),
            ),
            'prepayment_requests',
            ['company' => $desk->company->code],
        );
    }
}
