<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** What is received and not invoiced, by vendor and age; goods that go back, and what is cleared. */
#[Route('/{company}/not-invoiced', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class NotInvoicedController extends Screen
{
    private const COLUMNS = [
        'vendor',
        'name',
        'delivery',
        'note',
        'order',
        'delivered_on',
        'days',
        'text',
        'quantity',
        'unit',
        'price',
        'currency',
        'amount',
        'base',
    ];

    public function __construct(
        private readonly NotInvoicedQuery $query,
        private readonly BooksDay $booksDay,
        private readonly EntityManagerInterface $entities,
    ) {
    }

    #[Route('', name: 'not_invoiced', methods: ['GET'])]
    #[Needs(Permission::SeeDeliveries)]
    public function list(Desk $desk, Request $request, EntityManagerInterface $entities): Response
    {
        [$day, $error] = $this->day($desk, $request);
        $vendor = self::int($request->query, 'vendor') ?: null;
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'received-not-invoiced-'.$day->iso(),
                self::COLUMNS,
                $this->cells($desk, $day, $vendor),
            );
        }
        $party = null === $vendor ? null : $entities->find(Party::class, $vendor);
        if (null !== $vendor && (null === $party || $party->companyId !== $desk->id())) {
            throw $this->createNotFoundException('There is no such vendor in this company.');
        }

        return $this->render('goods/not_invoiced.html.twig', [
            'as_of' => $day,
            'error' => $error,
            'vendor' => $party,
            'vendors' => null === $vendor ? $this->query->byVendor($desk->id(), $day) : [],
            'lines' => null === $vendor ? [] : $this->query->lines($desk->id(), $day, $vendor),
            'ledger' => null === $vendor ? $this->query->ledger($desk->id(), $day) : null,
            'ages' => NotInvoicedQuery::AGES,
            'key' => FormKey::goOn(),
        ]);
    }

    /** @return iterable<list<string>> */
    private function cells(Desk $desk, Day $day, ?int $vendor): iterable
    {
        foreach ($this->query->lines($desk->id(), $day, $vendor) as $r) {
            $plain = static fn (string $key): string => (string) BigDecimal::of((string) $r[$key])->stripTrailingZeros();
            yield [
                (string) $r['code'],
                (string) $r['name'],
                (string) $r['number'],
                (string) $r['note_number'],
                (string) $r['order_number'],
                (string) $r['delivered_on'],
                (string) $r['age'],
                (string) $r['text'],
                $plain('quantity'),
                (string) $r['unit'],
                $plain('price'),
                (string) $r['currency'],
                Money::of((int) $r['amount'], (string) $r['currency'])->decimal(),
                Money::of((int) $r['base'], $desk->company->baseCurrency)->decimal(),
            ];
        }
    }

    #[Route('/clear', name: 'received_clear', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function clear(
        Desk $desk,
        Request $request,
        ClearReceived $clear,
        EntityManagerInterface $entities,
    ): Response {
        return $this->act(
            function () use ($desk, $request, $clear, $entities): string {
                $id = $clear->clear(
                    $desk->actor,
                    PickedLines::of($request),
                    $this->booksDay->asked($desk->id(), $request->request, 'date', $desk->today),
                    (string) $request->request->get('reason', ''),
                    FormKey::of($request),
                );

                return $this->said($desk, $entities->find(GoodsSlip::class, $id), 'Cleared');
            },
            'not_invoiced',
            ['company' => $desk->company->code, ...self::asked($request->request, ['vendor'])],
        );
    }

    #[Route('/back/{id<\d+>}', name: 'goods_back', methods: ['POST'])]
    #[Needs(Permission::RecordDeliveries)]
    public function back(
        Desk $desk,
        int $id,
        Request $request,
        SendGoodsBack $send,
        ReturnedGoods $returned,
        EntityManagerInterface $entities,
    ): Response {
        $this->found($entities->find(Delivery::class, $id), $desk->id());

        return $this->act(
            function () use ($desk, $request, $send, $returned, $entities): string {
                $quantities = [];
                foreach ((array) ($request->request->all()['lines'] ?? []) as $line => $row) {
                    $typed = \is_array($row) && \is_string($row['quantity'] ?? null) ? trim($row['quantity']) : '';
                    if ('' !== $typed) {
                        $quantities[(int) $line] = DeliveryReader::number(
                            $typed,
                            4,
                            'quantity',
                            "lines.$line.quantity",
                        );
                    }
                }
                $slip = $send->send(
                    $desk->actor,
                    $quantities,
                    $this->booksDay->asked($desk->id(), $request->request, 'date', $desk->today),
                    (string) $request->request->get('reason', ''),
                    FormKey::of($request),
                );

                return $this->said($desk, $entities->find(GoodsSlip::class, $slip), 'Sent back').
                    $this->claimed($desk, $returned->claims($slip));
            },
            'delivery',
            ['company' => $desk->company->code, 'id' => $id],
        );
    }

    #[Route('/slip/{id<\d+>}/undo', name: 'goods_slip_undo', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function undo(Desk $desk, int $id, Request $request, UndoSlip $undo, ReturnedGoods $returned): Response
    {
        return $this->act(function () use ($desk, $id, $request, $undo, $returned): string {
            $claims = $returned->claims($id);
            $slip = $undo->undo(
                $desk->actor,
                $id,
                $this->booksDay->asked($desk->id(), $request->request, 'date', $desk->today),
                (string) $request->request->get('reason', ''),
            );

            $rose = \sprintf(
                ' %s rose by %s %s.',
                MoveKind::NeverCame === $slip->kind ? 'Invoiced-not-received' : 'Received-not-invoiced',
                Typography::amount($slip->amountBase, $desk->company->baseCurrency),
                $desk->company->baseCurrency,
            );

            return $slip->number.
                ' is undone.'.
                (0 === $slip->amountBase ? '' : $rose).
                $this->ofClaims($claims, ' %s is reversed, which claimed %s %s; payables rose by as much.');
        }, ...$this->from($desk, $request));
    }

    /** @return array{string, array<string, int|string>} the page that it was undone from: the delivery's, or the invoice's */
    private function from(Desk $desk, Request $request): array
    {
        $document = self::int($request->request, 'document');

        return $document > 0
            ? ['document', ['company' => $desk->company->code, 'side' => 'payables', 'id' => $document]]
            : [
                'delivery',
                ['company' => $desk->company->code, 'id' => max(0, self::int($request->request, 'delivery'))],
            ];
    }

    /**
     * @param list<int> $claims
     * @param string $words with number, amount and currency
     */
    private function ofClaims(array $claims, string $words): string
    {
        $said = '';
        foreach ($claims as $id) {
            $claim = $this->entities->find(Document::class, $id) ?? throw new \LogicException('The claim is gone.');
            $amount = Typography::amount($claim->total, $claim->currency);
            $said .= \sprintf($words, $claim->number, $amount, $claim->currency);
        }

        return $said;
    }

    /** @param list<int> $claims */
    private function claimed(Desk $desk, array $claims): string
    {
        $said = $desk->sees(Side::Payables)
            ? $this->ofClaims($claims, ' %s claims %s %s of the vendor; payables fell by as much.')
            : '';

        return '' === $said && [] !== $claims ? ' What was invoiced is claimed of the vendor.' : $said;
    }

    private function said(Desk $desk, ?GoodsSlip $slip, string $what): string
    {
        if (0 === $slip?->amountBase) {
            return \sprintf('%s with %s.', $what, $slip->number);
        }

        return \sprintf(
            '%s with %s. Received-not-invoiced fell by %s %s.',
            $what,
            $slip?->number,
            Typography::amount($slip->amountBase ?? 0, $desk->company->baseCurrency),
            $desk->company->baseCurrency,
        );
    }

    /** @return array{Day, string|null} the day asked for, or today with what was wrong */
    private function day(Desk $desk, Request $request): array
    {
        try {
            return [$this->booksDay->asked($desk->id(), $request->query, 'as_of', $desk->today), null];
        } catch (Refused $e) {
            return [$desk->today, $e->getMessage()];
        }
    }
}
