<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

use Nelbix\App\Close\Journal\ManualEntriesQuery;
use Nelbix\App\Invoices\Trail;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Journal entries, by their number or that of what they were posted for. */
#[Route('/{company}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class CloseController extends Screen
{
    #[Route('/close/entry/{number}', name: 'entry', requirements: ['number' => '[A-Z0-9-]{1,30}'], methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function entry(
        Desk $desk,
        string $number,
        EntriesOfNumber $query,
        ManualEntriesQuery $manual,
        EntrySource $source,
        Trail $trail,
    ): Response {
        $entries = $query->of($desk->id(), $number);
        if ([] === $entries) {
            throw $this->createNotFoundException(\sprintf('There is no entry or document %s.', $number));
        }

        $of = $source->of(array_column($entries, 'id'));

        return $this->render('close/entry.html.twig', [
            'number' => $number,
            'entries' => $entries,
            'source' => $of,
            'trail' => $trail->of($desk->id(), $of['documents'], $desk->sides(), $desk->today),
            'by_hand' => $manual->entry($desk->id(), $number),
        ]);
    }
}
