<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Reports;

use Nelbix\App\Close\AccountQuery;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Ledger cards: an account or a party, line by line with the running balance. */
#[Route('/{company}/close', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class CardController extends ReportScreen
{
    public function __construct(BooksDay $booksDay, PeriodGate $periods, private readonly LedgerCard $card)
    {
        parent::__construct($booksDay, $periods);
    }

    #[Route('/account/{id<\d+>}', name: 'account', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function account(Desk $desk, int $id, Request $request, AccountQuery $accounts): Response
    {
        $account =
            $accounts->find($desk->id(), $id) ??
            throw $this->createNotFoundException('There is no such account in this company.');

        return $this->cardOf($desk, $request, $id, null, $account['number'].' '.$account['name'], 'account');
    }

    #[Route('/party/{id<\d+>}', name: 'party_card', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function party(Desk $desk, int $id, Request $request): Response
    {
        $party = $this->card->party($desk->id(), $id);
        if (null === $party || !$desk->sees(Side::from($party['side']))) {
            throw $this->createNotFoundException('There is no such party in this company.');
        }

        return $this->cardOf($desk, $request, $id, $party['side'], $party['name'], 'party_card');
    }

    private function cardOf(Desk $desk, Request $request, int $of, ?string $side, string $name, string $route): Response
    {
        $span = $this->span($desk, $request);
        $party = null !== $side;
        if (self::wantsFile($request)) {
            $d = self::decimals($desk);
            $rows = (function () use ($of, $party, $span, $d): \Generator {
                foreach ($this->card->each($party, $of, $span->from, $span->to) as $l) {
                    yield [
                        $l['posting_date'],
                        $l['number'],
                        '' === $l['line_text'] ? $l['text'] : $l['line_text'],
                        $l['account'],
                        (string) $l['party'],
                        $d(max(0, $l['base'])),
                        $d(max(0, -$l['base'])),
                        $d($l['balance']),
                    ];
                }
            })();

            return $this->exported(
                $request,
                'ledger-card-'.$span->to->iso(),
                ['date', 'entry', 'text', 'account', 'party', 'debit', 'credit', 'balance'],
                $rows,
            );
        }
        $after = $request->query->getString('after');

        return $this->render('close/reports/card.html.twig', [
            'card' => $party
                ? $this->card->ofParty($of, $span->from, $span->to, $after)
                : $this->card->ofAccount($of, $span->from, $span->to, $after),
            'begun' => $request->query->has('after'),
            'span' => $span,
            'id' => $of,
            'name' => $name,
            'route' => $route,
            'party_side' => $side,
        ]);
    }
}
