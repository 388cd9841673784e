<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Finance charges: proposed with their working, looked through, posted or waived. */
#[Route('/{company}/receivables/charges', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ChargesController extends Screen
{
    public function __construct(private readonly ChargesQuery $charges, private readonly BooksDay $booksDay)
    {
    }

    #[Route('', name: 'charges', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function list(Desk $desk, Request $request): Response
    {
        $error = null;
        try {
            $through = $this->booksDay->asked($desk->id(), $request->query, 'through', $desk->today);
        } catch (Refused $e) {
            [$through, $error] = [$desk->today, $e->getMessage()];
        }
        $charges = $this->charges->of($desk->id(), $through);
        if (self::wantsFile($request)) {
            $rows = [];
            foreach ($charges as $c) {
                foreach ($c['lines'] as $l) {
                    foreach ($l['spans'] as $s) {
                        $rows[] = [
                            $c['code'],
                            $c['name'],
                            $l['number'],
                            $l['due'],
                            $s['after'],
                            $s['through'],
                            (string) $s['days'],
                            $c['currency'],
                            Money::of($s['open'], $c['currency'])->decimal(),
                            $c['rate'],
                            Money::of($l['amount'], $c['currency'])->decimal(),
                        ];
                    }
                }
            }

            return $this->exported(
                $request,
                'finance-charges',
                [
                    'customer',
                    'name',
                    'item',
                    'due',
                    'after',
                    'through',
                    'days',
                    'currency',
                    'open',
                    'yearly_percent',
                    'charge_of_item',
                ],
                $rows,
            );
        }

        return $this->render('receivables/charges.html.twig', [
            'charges' => $charges,
            'through' => $through,
            'error' => $error,
            'key' => FormKey::goOn([]),
        ]);
    }

    #[Route('', name: 'charges_post', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function post(Desk $desk, Request $request, ChargeLate $charge): Response
    {
        $asked = $request->request;

        return $this->act(
            function () use ($desk, $asked, $request, $charge): string {
                $waive = 'waive' === $asked->get('_action');
                $count = $charge->charge(
                    $desk->actor,
                    $this->booksDay->asked($desk->id(), $asked, 'through', $desk->today),
                    array_values(array_filter($asked->all('charges'), 'is_string')),
                    $waive ? (string) $asked->get('why', '') : null,
                    FormKey::of($request),
                );

                return match (true) {
                    0 === $count => 'It was done already; this page was sent twice.',
                    $waive => \sprintf('Waived %s; they are not asked for again.', Words::count($count, 'charge')),
                    default => \sprintf('Posted %s.', Words::count($count, 'finance charge')),
                };
            },
            'charges',
            ['company' => $desk->company->code, ...self::asked($asked, ['through'])],
        );
    }
}
