<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Approval;
use Nelbix\App\Parties\Pickers;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Paper;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Formats\UnitCode;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Orders: entered, approved, changed, closed; what of each came and was invoiced. */
#[Route('/{company}/orders', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class OrderController extends Screen
{
    use OrderForm;

    public function __construct(
        private readonly OrderReader $reader,
        private readonly KeepOrder $keep,
        private readonly OrderedLines $lines,
        private readonly OrderQuery $query,
        private readonly EntityManagerInterface $entities,
    ) {
    }

    #[Route('', name: 'orders', methods: ['GET'])]
    #[Needs(Permission::SeeOrders)]
    public function list(Desk $desk, Request $request, OrderListQuery $list): Response
    {
        $show = \in_array($request->query->get('show'), OrderListQuery::lists(), true)
            ? (string) $request->query->get('show')
            : 'open';
        $vendor = self::int($request->query, 'vendor') ?: null;
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'orders',
                [
                    'number',
                    'vendor',
                    'name',
                    'ordered_on',
                    'wanted_by',
                    'by',
                    'approval',
                    'closed_on',
                    'currency',
                    'amount',
                    'to_come',
                ],
                self::cells($list->each($desk->id(), $show, $desk->today, $vendor)),
            );
        }
        $after = $request->query->get('after');

        return $this->render('goods/orders.html.twig', [
            'page' => $list->page($desk->id(), $show, $desk->today, $vendor, \is_string($after) ? $after : null),
            'begun' => null !== $after,
            'show' => $show,
            'vendor' => $vendor,
            'vendors' => null === $vendor ? $list->byVendor($desk->id()) : [],
        ]);
    }

    /**
     * @param iterable<array<string, mixed>> $rows
     *
     * @return iterable<list<string>>
     */
    private static function cells(iterable $rows): iterable
    {
        foreach ($rows as $r) {
            $money = static fn (string $key): string => Money::of((int) $r[$key], (string) $r['currency'])->decimal();
            yield [
                (string) $r['number'],
                (string) $r['code'],
                (string) $r['name'],
                (string) $r['ordered_on'],
                (string) $r['next_by'],
                (string) $r['by_name'],
                (string) $r['approval'],
                (string) $r['closed_on'],
                (string) $r['currency'],
                $money('amount'),
                $money('to_come'),
            ];
        }
    }

    #[Route('/new', name: 'order_new', methods: ['GET'])]
    #[Needs(Permission::EnterOrders)]
    public function enter(Desk $desk, Request $request): Response
    {
        return $this->form($desk, [
            'party' => mb_substr((string) $request->query->get('party', ''), 0, 20),
            'ordered_on' => $desk->today->long(),
        ]);
    }

    #[Route('/live', name: 'order_live', methods: ['POST'])]
    #[Needs(Permission::EnterOrders)]
    public function live(Desk $desk, Request $request): Response
    {
        return $this->render('goods/order_live.html.twig', $this->worked($desk, $request->request->all()));
    }

    #[Route('/new', name: 'order_enter', methods: ['POST'])]
    #[Needs(Permission::EnterOrders)]
    public function save(Desk $desk, Request $request): Response
    {
        $raw = $request->request->all();
        try {
            $id = $this->keep->enter($desk->actor, $this->reader->read($desk->actor, $raw), FormKey::of($request));
        } catch (Refused $e) {
            return $this->form($desk, $raw, $e->problems);
        }
        $order = $this->entities->find(PurchaseOrder::class, $id) ?? throw new \LogicException();
        $this->say(
            \sprintf(
                'Ordered for %s %s: %s.%s Nothing is in the books before it comes.',
                Typography::amount($order->amount, $order->currency),
                $order->currency,
                $order->number,
                Approval::Awaiting === $order->approval
                    ? ' It awaits approval; nothing is taken for it until then.'
                    : '',
            ),
        );

        return $this->redirectToRoute('order', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    #[Route('/{id<\d+>}', name: 'order', methods: ['GET'])]
    #[Needs(Permission::SeeOrders)]
    public function show(Desk $desk, int $id, HistoryQuery $history): Response
    {
        $order = $this->found($this->entities->find(PurchaseOrder::class, $id), $desk->id());

        return $this->render('goods/order.html.twig', [
            'order' => $order,
            'head' => $this->query->head($id),
            'lines' => $this->lines->ofOrder($id),
            'deliveries' => $this->query->deliveries($id),
            'invoices' => $desk->sees(Side::Payables) ? $this->query->invoices($id) : [],
            'history' => $history->of($desk->id(), 'purchase_order', $id),
            'units' => UnitCode::OFFERED,
            'key' => FormKey::goOn(),
        ]);
    }

    #[Route('/{id<\d+>}/change', name: 'order_change', methods: ['GET'])]
    #[Needs(Permission::EnterOrders)]
    public function change(Desk $desk, int $id): Response
    {
        $order = $this->entities->find(PurchaseOrder::class, $id);
        if (null === $order || $order->companyId !== $desk->id() || null !== $order->closedOn) {
            throw $this->createNotFoundException('There is no such order that could be changed.');
        }
        $head = $this->query->head($id) ?: [];

        return $this->form(
            $desk,
            OrderQuery::form($order, (string) $head['code'], $this->lines->ofOrder($id)),
            [],
            $order,
        );
    }

    #[Route('/{id<\d+>}/change', name: 'order_change_save', methods: ['POST'])]
    #[Needs(Permission::EnterOrders)]
    public function changed(Desk $desk, int $id, Request $request): Response
    {
        $raw = $request->request->all();
        $order = $this->entities->find(PurchaseOrder::class, $id);
        try {
            $this->keep->change(
                $desk->actor,
                $id,
                $this->reader->read($desk->actor, $raw),
                self::int($request->request, 'version'),
            );
        } catch (Refused $e) {
            return null !== $order && $order->companyId === $desk->id()
                ? $this->form($desk, $raw, $e->problems, $order)
                : throw $this->createNotFoundException($e->getMessage());
        }
        $this->say(
            Approval::Awaiting === $order?->approval
                ? 'The order is changed; it awaits approval, and nothing is taken for it until then.'
                : 'The order is changed.',
        );

        return $this->redirectToRoute('order', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    #[Route('/{id<\d+>}/order.pdf', name: 'order_pdf', methods: ['GET'])]
    #[Needs(Permission::SeeOrders)]
    public function pdf(Desk $desk, int $id, OrderPaper $set, Paper $paper): Response
    {
        $with =
            $set->of($desk->company, $id) ??
            throw $this->createNotFoundException('There is no such order in this company.');

        return $paper->pdf('goods/order_pdf.html.twig', $with, (string) $with['order']->number);
    }

    #[Route(
        '/pick/{what}',
        name: 'order_pick',
        requirements: ['what' => 'party|account|tax_code|cost_center|department|project'],
        methods: ['GET'],
    ),]
    #[Needs(Permission::EnterOrders)]
    public function pick(Desk $desk, string $what, Request $request, Pickers $pickers): JsonResponse
    {
        return new JsonResponse(
            $pickers->find($desk->id(), Side::Payables, $what, (string) $request->query->get('q', '')),
        );
    }
}
