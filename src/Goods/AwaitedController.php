<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** What is invoiced and not received as of a day, and what of it never comes. */
#[Route('/{company}/payables/awaited', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class AwaitedController extends Screen
{
    private const COLUMNS = [
        'vendor',
        'name',
        'invoice',
        'their_number',
        'order',
        'invoiced_on',
        'days',
        'wanted_by',
        'text',
        'quantity',
        'unit',
        'currency',
        'amount',
        'base',
    ];

    public function __construct(private readonly AwaitedQuery $query, private readonly BooksDay $booksDay)
    {
    }

    #[Route('', name: 'awaited', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function list(Desk $desk, Request $request): Response
    {
        try {
            [$day, $error] = [$this->booksDay->asked($desk->id(), $request->query, 'as_of', $desk->today), null];
        } catch (Refused $e) {
            [$day, $error] = [$desk->today, $e->getMessage()];
        }
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'invoiced-not-received-'.$day->iso(),
                self::COLUMNS,
                $this->cells($desk, $day),
            );
        }
        [$sum, $ledger] = $this->query->sums($desk->id(), $day);

        return $this->render('goods/awaited.html.twig', [
            'as_of' => $day,
            'error' => $error,
            'lines' => $this->query->lines($desk->id(), $day, AwaitedQuery::MOST),
            'most' => AwaitedQuery::MOST,
            'sum' => $sum,
            'ledger' => $ledger,
            'key' => FormKey::goOn(),
        ]);
    }

    /** @return iterable<list<string>> */
    private function cells(Desk $desk, Day $day): iterable
    {
        foreach ($this->query->lines($desk->id(), $day) as $r) {
            yield [
                (string) $r['code'],
                (string) $r['name'],
                (string) $r['number'],
                (string) $r['their_number'],
                (string) $r['order_number'],
                (string) $r['invoiced_on'],
                (string) $r['age'],
                (string) $r['wanted_by'],
                (string) $r['text'],
                (string) BigDecimal::of((string) $r['quantity'])->stripTrailingZeros(),
                (string) $r['unit'],
                (string) $r['currency'],
                Money::of((int) $r['amount'], (string) $r['currency'])->decimal(),
                Money::of((int) $r['base'], $desk->company->baseCurrency)->decimal(),
            ];
        }
    }

    #[Route('/never', name: 'never_came', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function never(Desk $desk, Request $request, NeverCame $never, EntityManagerInterface $entities): Response
    {
        return $this->act(
            function () use ($desk, $request, $never, $entities): string {
                $id = $never->clear(
                    $desk->actor,
                    PickedLines::of($request),
                    $this->booksDay->asked($desk->id(), $request->request, 'date', $desk->today),
                    (string) $request->request->get('reason', ''),
                    FormKey::of($request),
                );
                $slip = $entities->find(GoodsSlip::class, $id);

                return \sprintf(
                    'Cleared with %s. Invoiced-not-received fell by %s %s.',
                    $slip?->number,
                    Typography::amount($slip->amountBase ?? 0, $desk->company->baseCurrency),
                    $desk->company->baseCurrency,
                );
            },
            'awaited',
            ['company' => $desk->company->code],
        );
    }
}
