<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Commissions of a time, each line open to the invoice and the money behind it. */
#[Route('/{company}/receivables/commissions', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class CommissionController extends Screen
{
    #[Route('', name: 'commissions', methods: ['GET'])]
    #[Needs(Permission::SeeReceivables)]
    public function list(Desk $desk, Request $request, CommissionQuery $query, BooksDay $booksDay): Response
    {
        $period = StatementPeriod::of(
            new \Symfony\Component\HttpFoundation\InputBag([
                'from' => Day::of(\sprintf('%04d-%02d-01', $desk->today->year, $desk->today->month))->long(),
                ...array_filter($request->query->all(), 'is_string'),
                'what' => 'moves',
            ]),
            $booksDay->input($desk->id()),
            $desk->today,
        );
        $rows = $query->of($desk->id(), $period->from ?? $desk->today, $period->through);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'commissions',
                [
                    'salesperson',
                    'date',
                    'customer',
                    'name',
                    'invoice',
                    'money_of',
                    'currency',
                    'received',
                    'net',
                    'percent',
                    'commission',
                ],
                array_map(
                    static fn (array $r): array => [
                        $r['salesperson'],
                        $r['day'],
                        $r['code'],
                        $r['name'],
                        $r['invoice'],
                        $r['receipt'],
                        $r['currency'],
                        Money::of($r['money'], $r['currency'])->decimal(),
                        Money::of($r['net'], $r['currency'])->decimal(),
                        $r['percent'],
                        Money::of($r['commission'], $r['currency'])->decimal(),
                    ],
                    $rows,
                ),
            );
        }
        $sums = [];
        foreach ($rows as $r) {
            $key = $r['salesperson'].' '.$r['currency'];
            $sums[$key] ??= [
                'salesperson' => $r['salesperson'],
                'currency' => $r['currency'],
                'money' => 0,
                'commission' => 0,
            ];
            $sums[$key]['money'] += $r['money'];
            $sums[$key]['commission'] += $r['commission'];
        }

        return $this->render('receivables/commissions.html.twig', [
            'rows' => $rows,
            'sums' => array_values($sums),
            'period' => $period,
        ]);
    }
}
