<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Words;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Reminders by mail, or on paper. */
#[Route('/{company}/receivables/reminders', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ReminderSendController extends Screen
{
    #[Route('/send', name: 'reminders_send', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function send(Desk $desk, Request $request, SendReminders $send): Response
    {
        $onPaper = 'paper' === $request->request->get('_action');
        $keys = array_values(array_filter($request->request->all('keys'), 'is_string'));

        return $this->act(
            static fn (): string => \sprintf(
                $onPaper ? '%s kept as sent on paper.' : '%s in the outbox.',
                Words::count(
                    $send->send($desk->actor, $desk->company, $keys, $onPaper),
                    $onPaper ? 'reminder is' : 'reminder lies',
                    $onPaper ? 'reminders are' : 'reminders lie',
                ),
            ),
            'reminders',
            ['company' => $desk->company->code],
        );
    }
}
