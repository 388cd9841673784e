<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Year;

use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The end of a year: what would be posted, what was. */
#[Route('/{company}/close/year-end', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class YearEndController extends Screen
{
    #[Route('', name: 'year_end', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function show(
        Desk $desk,
        Request $request,
        ProposeYearEnd $propose,
        YearEndsQuery $posted,
        Chart $chart,
    ): Response {
        $year = self::int($request->query, 'year', $desk->today->year - 1);
        $error = null;
        try {
            $proposed = $propose->of($desk->id(), $desk->company->baseCurrency, $year);
        } catch (Refused $e) {
            [$proposed, $error] = [null, $e->getMessage()];
        }

        return $this->render('close/year_end.html.twig', [
            'year' => $year,
            'proposed' => $proposed,
            'error' => $error,
            'posted' => $posted->of($desk->id()),
            'accounts' => $chart->accounts($desk->id()),
        ]);
    }

    #[Route('', name: 'year_end_post', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function close(Desk $desk, Request $request, CloseYear $close): Response
    {
        $year = self::int($request->request, 'year');

        return $this->act(
            static fn (): string => \sprintf(
                'Closed %d by %s. Income and expense stand at zero; what they came to is in retained earnings.',
                $year,
                $close->close($desk->actor, $year, $request->request->getString('seen')),
            ),
            'year_end',
            ['company' => $desk->company->code, 'year' => $year],
        );
    }

    #[Route('/{id<\d+>}/undo', name: 'year_end_undo', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function undo(Desk $desk, int $id, Request $request, CloseYear $close): Response
    {
        return $this->act(
            static function () use ($desk, $id, $request, $close): string {
                $close->undo($desk->actor, $id, $request->request->getString('why'));

                return 'The close is undone by a reversal on the same day.';
            },
            'year_end',
            ['company' => $desk->company->code],
        );
    }
}
