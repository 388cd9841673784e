<?php

declare(strict_types=1);

namespace Nelbix\App\Today;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Setup\NewCompany\FirstSteps;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

#[Route('/{company}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class TodayController extends Screen
{
    #[Route('', name: 'today', methods: ['GET'])]
    #[Needs(Permission::Enter)]
    public function today(Desk $desk, WhatWaits $waits, FirstSteps $steps): Response
    {
        return $this->render('today/today.html.twig', [
            'lines' => $waits->for($desk),
            'steps' => $desk->may(Permission::Control) ? $steps->of($desk->company) : [],
        ]);
    }

    #[Route('/search', name: 'search', methods: ['GET'])]
    #[Needs(Permission::Enter)]
    public function search(Desk $desk, Request $request, SearchQuery $search): Response
    {
        $q = mb_substr(trim((string) $request->query->get('q', '')), 0, 60);
        $sides = array_values(array_filter(Side::cases(), $desk->sees(...)));

        return $this->render('today/search.html.twig', [
            'q' => $q,
            'documents' => $search->documents($desk->id(), $sides, $q, $desk->today->year),
            'parties' => $search->parties($desk->id(), $sides, $q),
            'goods' => $search->goods(
                $desk->id(),
                array_keys(
                    array_filter([
                        'delivery' => $desk->may(Permission::SeeDeliveries),
                        'order' => $desk->may(Permission::SeeOrders),
                    ]),
                ),
                $q,
            ),
            'checks' => $desk->may(Permission::SeeLedger) ? $search->checks($desk->id(), $q) : [],
            'runs' => $desk->sees(Side::Payables) ? $search->runs($desk->id(), $q) : [],
            'entries' => $desk->may(Permission::SeeLedger) ? $search->entries($desk->id(), $q) : [],
        ]);
    }
}
