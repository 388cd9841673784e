<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\NewCompany;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Taking the books over from elsewhere, and the list of first steps. */
#[Route('/{company}/setup', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class TakeOverController extends Screen
{
    #[Route('/take-over', name: 'take_over', methods: ['GET'])]
    #[Needs(Permission::Control)]
    public function page(Desk $desk, TakeOverQuery $query): Response
    {
        return $this->show($desk, $query);
    }

    #[Route('/take-over', name: 'take_over_save', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function save(Desk $desk, Request $request, TakeOver $takeOver, TakeOverQuery $query): Response
    {
        $typed = (string) $request->request->get('day', '');
        try {
            $day = $takeOver->asOf($desk->actor, $typed);
        } catch (Refused $e) {
            return $this->show($desk, $query, $typed, self::byField($e->problems));
        }
        $this->say(\sprintf('The books are taken over as of %s.', $day->long()));

        return $this->redirectToRoute('take_over', ['company' => $desk->company->code], 303);
    }

    #[Route('/first-steps', name: 'first_steps', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function steps(Desk $desk, Request $request, FirstSteps $steps): Response
    {
        return $this->act(
            static function () use ($desk, $request, $steps): ?string {
                if ('away' === $request->request->get('to')) {
                    $steps->putAway($desk->actor);

                    return 'The list of first steps is put away.';
                }
                $steps->mark(
                    $desk->actor,
                    (string) $request->request->get('step', ''),
                    'done' === $request->request->get('to'),
                );

                return null;
            },
            'today',
            ['company' => $desk->company->code],
        );
    }

    /** @param array<string, string> $errors */
    private function show(Desk $desk, TakeOverQuery $query, ?string $typed = null, array $errors = []): Response
    {
        $day = $desk->company->openingDay;

        return $this->render(
            'setup/take_over.html.twig',
            [
                'day' => $day,
                'form' => ['day' => $typed ?? ''],
                'errors' => $errors,
                'rows' => null === $day ? [] : $query->of($desk->id(), $day),
            ],
            new Response(null, [] === $errors ? 200 : 422),
        );
    }
}
