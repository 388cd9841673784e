<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** What is decided on an order that is there: approved, refused, closed; services of it accepted. */
#[Route('/{company}/orders/{id<\d+>}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class OrderActController extends Screen
{
    public function __construct(private readonly DecideOrder $decide)
    {
    }

    #[Route('/decide', name: 'order_decide', methods: ['POST'])]
    #[Needs(Permission::Approve)]
    public function decide(Desk $desk, int $id, Request $request): Response
    {
        $approve = 'approve' === $request->request->get('decision');

        return $this->act(
            fn (): string => \sprintf(
                '%s is %s.',
                $this->decide->decide(
                    $desk->actor,
                    $id,
                    $approve,
                    (string) $request->request->get('reason', ''),
                    self::int($request->request, 'version'),
                )->number,
                $approve ? 'approved' : 'refused',
            ),
            'order',
            ['company' => $desk->company->code, 'id' => $id],
        );
    }

    #[Route('/close', name: 'order_close', methods: ['POST'])]
    #[Needs(Permission::EnterOrders)]
    public function close(Desk $desk, int $id, Request $request): Response
    {
        return $this->act(
            fn (): string => \sprintf(
                '%s is closed; nothing more is taken for it.',
                $this->decide->close($desk->actor, $id, (string) $request->request->get('reason', ''))->number,
            ),
            'order',
            ['company' => $desk->company->code, 'id' => $id],
        );
    }

    /** Services of the order that were done, accepted by whoever ordered them. */
    #[Route('/accept', name: 'order_accept', methods: ['POST'])]
    #[Needs(Permission::EnterOrders)]
    public function accept(
        Desk $desk,
        int $id,
        Request $request,
        DeliveryReader $reader,
        RecordDelivery $record,
        DeliverySaid $said,
    ): Response {
        return $this->act(
            static function () use ($desk, $request, $reader, $record, $said): string {
                $input = $reader->read($desk->actor, $request->request->all());
                $id = $record->record($desk->actor, $input, FormKey::of($request), true);

                return $said->recorded($desk, $id, 'Accepted as');
            },
            'order',
            ['company' => $desk->company->code, 'id' => $id],
        );
    }
}
