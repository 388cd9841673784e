<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Banking\DebitsQuery;
use Nelbix\App\Banking\Mandate;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Invoices\NotesQuery;
use Nelbix\App\Parties\Party;
use Nelbix\App\Parties\PartyBanks;
use Nelbix\App\Parties\PartyDetails;
use Nelbix\App\Parties\PartyProfile;
use Nelbix\App\Parties\ReleaseCredit;
use Nelbix\App\Parties\Twins;
use Nelbix\App\People\Colleagues;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Receivables\CustomerStanding;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/**
 * One vendor or customer: the page, and the panel beside the list. The water line and who it may be the same as come once the rest
 * stands.
 */
#[Route(
    '/{company}/{side}/party/{id<\d+>}',
    requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'],
),]
final class PartyPageController extends Screen
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly PartyListQuery $list,
        private readonly OpenItemsQuery $items,
        private readonly PartyDetails $details,
        private readonly PartyProfile $profile,
        private readonly PartyBanks $banks,
        private readonly ReleaseCredit $credit,
        private readonly CustomerStanding $standing,
    ) {
    }

    #[Route('', name: 'party', methods: ['GET'])]
    #[Needs('see')]
    public function show(
        Desk $desk,
        Side $side,
        int $id,
        Request $request,
        HistoryQuery $history,
        NotesQuery $notes,
        Colleagues $colleagues,
        DebitsQuery $debits,
    ): Response {
        $party = $this->entities->find(Party::class, $id);
        // a customer who is owed a refund is met on the payables side too; its page is one
        if ($side->other() === $party?->side && $party->companyId === $desk->id()) {
            return $this->redirectToRoute('party', [
                'company' => $desk->company->code,
                'side' => $side->other()->value,
                'id' => $id,
            ]);
        }
        $party = $this->party($desk, $side, $id);
        $panel = $this->panel($desk, $side, $party);
        if (self::isLive($request)) {
            return $this->render('setup/parties/_details.html.twig', $panel);
        }
        $before = self::int($request->query, 'before') ?: null;

        return $this->render('setup/parties/party.html.twig', [
            ...$panel,
            'history' => $history->of($desk->id(), 'party', $id),
            'notes' => $notes->ofParty($id),
            'colleagues' => $colleagues->of($desk->id()),
            'seen' => $this->banks->digest($party, $panel['banks']),
            'documents' => $this->list->documents($desk->id(), $id, $before),
            'begun' => null !== $before,
            'mandates' => Side::Receivables === $side ? $debits->mandates($id) : [],
            'schemes' => Mandate::SCHEMES,
        ]);
    }

    /** Its balance over a year. */
    #[Route('/water', name: 'party_water', methods: ['GET'])]
    #[Needs('see')]
    public function water(Desk $desk, Side $side, int $id, WaterLine $water): Response
    {
        $party = $this->party($desk, $side, $id);

        return $this->render('setup/parties/water.html.twig', [
            'side' => $side,
            'party' => $party,
            'water' => $water->of($desk->id(), $side, $id, $desk->today),
        ]);
    }

    /** Who it may be the same as. */
    #[Route('/alike', name: 'party_alike', methods: ['GET'])]
    #[Needs('see')]
    public function alike(Desk $desk, Side $side, int $id, Twins $twins): Response
    {
        $party = $this->party($desk, $side, $id);

        return $this->render('setup/parties/_twins.html.twig', [
            'side' => $side,
            'twins' => $twins->of(
                $desk->id(),
                $side,
                $party->name,
                $party->taxNumber,
                $party->iban,
                $party->routingNumber,
                $party->accountNumber,
                $id,
            ),
        ]);
    }

    /** @return array{banks: list<array<string, mixed>>, ...<string, mixed>} what the panel beside the list says */
    private function panel(Desk $desk, Side $side, Party $party): array
    {
        $id = $party->id();
        $customer = Side::Receivables === $side;

        return [
            'side' => $side,
            'party' => $party,
            'items' => $this->items->ofParty($desk->id(), $side, $id, $desk->today),
            ...$this->list->names($id),
            ...$this->details->of($id),
            'banks' => $this->banks->of($id),
            'profile' => $this->profile->form($party, $desk->company->baseCurrency),
            'released' => $customer && null !== $party->creditLimit ? $this->credit->holds($id, $desk->today) : null,
            'standing' => $customer ? $this->standing->of($id, $desk->today) : null,
        ];
    }

    private function party(Desk $desk, Side $side, int $id): Party
    {
        $party = $this->entities->find(Party::class, $id);
        if (!($party instanceof Party) || $party->companyId !== $desk->id() || $party->side !== $side) {
            throw $this->createNotFoundException(\sprintf('There is no such %s in this company.', $side->partyWord()));
        }

        return $party;
    }
}
