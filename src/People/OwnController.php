<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Transaction;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** What a person sets for themselves. */
#[Route('/{company}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class OwnController extends Screen
{
    #[Route('/keys', name: 'single_keys', methods: ['POST'])]
    #[Needs(Permission::Enter)]
    public function singleKeys(Desk $desk, Transaction $transaction): Response
    {
        $user = $desk->user;
        if (!$user instanceof User) {
            throw $this->createNotFoundException('Nobody of this name works here.');
        }
        $transaction->run(static function () use ($user): void {
            $user->singleKeys = !$user->singleKeys;
        });
        $this->say(
            $user->singleKeys
                ? 'Single keys are on.'
                : 'Single keys are off for you; keys with Ctrl and Alt still work.',
        );

        return $this->redirectToRoute('today', ['company' => $desk->company->code], 303);
    }
}
