<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** What a document led to; its page asks for it once the rest stands. */
final class TrailController extends Screen
{
    #[Route(
        '/{company}/{side}/document/{id<\d+>}/trail',
        name: 'document_trail',
        requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'],
        methods: ['GET'],
    ),]
    #[Needs('see')]
    public function show(Desk $desk, Side $side, int $id, Trail $trail): Response
    {
        $drawn = $trail->of($desk->id(), [$id], $desk->sides(), $desk->today);
        $own = array_values(array_filter($drawn['marks'], static fn (array $m): bool => $m['id'] === $id));
        if ([] === $own) {
            throw $this->createNotFoundException('There is no such document in this company.');
        }

        return $this->render('invoices/trail.html.twig', [
            'side' => $side,
            'trail' => $drawn,
            'trail_of' => $own[0]['number'],
        ]);
    }
}
