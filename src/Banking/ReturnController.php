<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** A payment that came back from the bank. */
final class ReturnController extends Screen
{
    #[Route(
        '/{company}/payables/document/{id<\d+>}/returned',
        name: 'payment_returned',
        requirements: ['company' => '[A-Z0-9]{2,12}'],
        methods: ['POST'],
    ),]
    #[Needs(Permission::Approve)]
    public function returned(Desk $desk, int $id, Request $request, ReturnPayment $return): Response
    {
        return $this->act(
            static function () use ($desk, $id, $request, $return): string {
                $return->record($desk->actor, $id, $desk->today, (string) $request->request->get('reason', ''));

                return 'It came back. What it had settled is open again, discounts included.';
            },
            'document',
            ['company' => $desk->company->code, 'side' => 'payables', 'id' => $id],
        );
    }
}
