<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Goods\OrderForm;
use Nelbix\App\Goods\OrderReader;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpKernel\Exception\AccessDeniedHttpException;
use Symfony\Component\Routing\Attribute\Route;

/** Ordered, received and invoiced in one step, from the form of the order. */
#[Route('/{company}/orders', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class BuyController extends Screen
{
    use OrderForm;

    public function __construct(
        private readonly OrderReader $reader,
        private readonly EntityManagerInterface $entities,
    ) {
    }

    #[Route('/at-once', name: 'buy_at_once', methods: ['POST'])]
    #[Needs(Permission::EnterOrders)]
    public function buy(Desk $desk, Request $request, BuyAtOnce $buy): Response
    {
        if (!$desk->may(Permission::RecordDeliveries) || !$desk->may(Permission::EnterPayables)) {
            throw new AccessDeniedHttpException('Your role orders, but does not receive and enter invoices as well.');
        }
        $raw = $request->request->all();
        $paper = \is_array($raw['at_once'] ?? null) ? $raw['at_once'] : [];
        try {
            $id = $buy->buy($desk->actor, $this->reader->read($desk->actor, $raw), $paper, FormKey::of($request));
        } catch (Refused $e) {
            return $this->form($desk, $raw, $e->problems);
        }
        $document = $this->entities->find(Document::class, $id) ?? throw new \LogicException();
        $this->say(
            \sprintf(
                'Ordered, received and posted as %s. Payables rose by %s %s.%s',
                $document->number,
                Typography::amount($document->total, $document->currency),
                $document->currency,
                null === $document->heldReason ? '' : ' It is held: '.rtrim($document->heldReason, '.').'.',
            ),
        );

        return $this->redirectToRoute(
            'document',
            ['company' => $desk->company->code, 'side' => Side::Payables->value, 'id' => $id],
            303,
        );
    }
}
