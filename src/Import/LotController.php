<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Work\JobQuery;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/**
 * A file that is taken over in slices: how far it is; go on with it, or take it back.
 *
 * @phpstan-import-type LotRow from LotQuery
 */
#[Route('/{company}/import/lot/{id<\d+>}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class LotController extends Screen
{
    public function __construct(
        private readonly LotQuery $lots,
        private readonly LotRecords $records,
        private readonly ImportDoors $doors,
        private readonly ImportLongFile $longFile,
        private readonly GoOnWithLot $goOn,
        private readonly GiveBackLot $giveBack,
        private readonly JobQuery $jobs,
    ) {
    }

    #[Route('', name: 'import_lot', methods: ['GET'])]
    #[Needs(Permission::Enter)]
    public function show(Desk $desk, int $id): Response
    {
        return $this->page($this->lot($desk, $id));
    }

    #[Route('/go-on', name: 'import_lot_go_on', methods: ['POST'])]
    #[Needs(Permission::Enter)]
    public function goOn(Desk $desk, int $id): Response
    {
        $lot = $this->lot($desk, $id);
        try {
            $this->goOn->start($desk->actor, $id);
        } catch (Refused $e) {
            return $this->page($lot, $e->getMessage());
        }

        return $this->redirectToRoute('import_lot', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    #[Route('/take-back', name: 'import_lot_take_back', methods: ['POST'])]
    #[Needs(Permission::Enter)]
    public function takeBack(Desk $desk, Request $request, int $id): Response
    {
        $lot = $this->lot($desk, $id);
        try {
            $this->giveBack->start($desk->actor, $id, (string) $request->request->get('reason', ''));
        } catch (Refused $e) {
            return $this->page($lot, $e->getMessage());
        }

        return $this->redirectToRoute('import_lot', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    /** @return LotRow */
    private function lot(Desk $desk, int $id): array
    {
        $lot =
            $this->lots->one($desk->id(), $id) ??
            throw $this->createNotFoundException('There is no such import in this company.');
        $this->doors->mayTake($desk, $lot['kind']);

        return $lot;
    }

    /** @param LotRow $lot */
    private function page(array $lot, ?string $refused = null): Response
    {
        $jobs = array_filter([
            $this->jobs->last($this->longFile->kind(), $lot['file_id']),
            $this->jobs->last($this->giveBack->kind(), $lot['id']),
        ]);
        usort($jobs, static fn (array $a, array $b): int => $b['id'] <=> $a['id']);
        $job = $jobs[0] ?? null;

        return $this->render(
            'import/lot.html.twig',
            [
                'lot' => $lot,
                'job' => $job,
                'refused' => $refused,
                'records' => $this->records->latest($lot['id'], $lot['holds']),
                'listed' => LotRecords::LISTED,
            ],
            new Response(null, null === $refused ? 200 : 422),
        );
    }
}
