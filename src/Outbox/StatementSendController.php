<?php

declare(strict_types=1);

namespace Nelbix\App\Outbox;

use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Words;
use Nelbix\App\Receivables\StatementPeriod;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Statements of account by mail. */
#[Route('/{company}/receivables/statements', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class StatementSendController extends Screen
{
    #[Route('/send', name: 'account_statements_send', methods: ['POST'])]
    #[Needs(Permission::EnterReceivables)]
    public function send(Desk $desk, Request $request, SendStatements $send, BooksDay $booksDay): Response
    {
        $ids = array_map('intval', array_values(array_filter($request->request->all('ids'), 'is_scalar')));
        $period = StatementPeriod::of($request->request, $booksDay->input($desk->id()), $desk->today);

        return $this->act(
            static fn (): string => \sprintf(
                '%s in the outbox.',
                Words::count(
                    $send->send($desk->actor, $desk->company, \array_slice($ids, 0, 500), $period),
                    'statement lies',
                    'statements lie',
                ),
            ),
            'account_statements',
            ['company' => $desk->company->code],
        );
    }
}
