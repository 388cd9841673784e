<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Books\WhoOwes;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Parties\Party;
use Nelbix\App\Parties\PartyBanks;
use Nelbix\App\Parties\PartyDetails;
use Nelbix\App\Parties\PartyProfile;
use Nelbix\App\Parties\Pickers;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Parties\Twins;
use Nelbix\App\People\HistoryQuery;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Letters;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** Vendors and customers: list, page, form, and the pickers. */
#[Route('/{company}/{side}', requirements: ['company' => '[A-Z0-9]{2,12}', 'side' => 'payables|receivables'])]
final class PartyController extends Screen
{
    public function __construct(
        private readonly EntityManagerInterface $entities,
        private readonly PartyListQuery $list,
        private readonly Pickers $pickers,
        private readonly PartyDetails $details,
        private readonly PartyProfile $profile,
        private readonly PartyBanks $banks,
        private readonly Twins $twins,
        private readonly HistoryQuery $history,
    ) {
    }

    #[Route('/parties', name: 'parties', methods: ['GET'])]
    #[Needs('see')]
    public function list(Desk $desk, Side $side, Request $request, PartyListQuery $list): Response
    {
        $q = mb_substr(trim((string) $request->query->get('q', '')), 0, 60);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                Side::Payables === $side ? 'vendors' : 'customers',
                ['code', 'name', 'city', 'open', 'overdue'],
                self::cells($list->each($desk->id(), $side, $desk->today, $q), $desk->company->baseCurrency),
            );
        }
        $after = $request->query->get('after');

        return $this->render('setup/parties/list.html.twig', [
            'side' => $side,
            'q' => $q,
            'page' => $list->page($desk->id(), $side, $desk->today, $q, \is_string($after) ? $after : null),
            'begun' => null !== $after,
            'foot' => $list->foot($desk->id(), $side, $desk->today, $q),
        ]);
    }

    /**
     * @param iterable<array<string, mixed>> $rows
     *
     * @return iterable<list<string>>
     */
    private static function cells(iterable $rows, string $currency): iterable
    {
        foreach ($rows as $r) {
            yield [
                (string) $r['code'],
                (string) $r['name'],
                (string) $r['city'],
                Money::of((int) $r['open'], $currency)->decimal(),
                Money::of((int) $r['overdue'], $currency)->decimal(),
            ];
        }
    }

    #[Route('/party', name: 'party_new', methods: ['GET'])]
    #[Needs('enter')]
    public function add(Desk $desk, Side $side): Response
    {
        return $this->form(
            $desk,
            $side,
            ['code' => $this->list->nextCode($desk->id(), $side), 'method' => 'check', 'if_late' => 'can_wait'],
            null,
            [],
        );
    }

    #[Route('/party/{id<\d+>}/edit', name: 'party_edit', methods: ['GET'])]
    #[Needs('enter')]
    public function edit(Desk $desk, Side $side, int $id, CodeBook $codes, Chart $chart): Response
    {
        $p = $this->party($desk, $side, $id);

        return $this->form(
            $desk,
            $side,
            [
                'code' => $p->code,
                'name' => $p->name,
                'terms' => null === $p->termId ? '' : $codes->terms($desk->id())[$p->termId]->code,
                'currency' => $p->currency ?? '',
                'method' => $p->method,
                'tax_number' => $p->taxNumber,
                'street' => $p->street,
                'city' => $p->city,
                'country' => $p->country,
                'email' => $p->email,
                'default_account' => null === $p->defaultAccountId ? '' : $chart->account($desk->id(), $p->defaultAccountId)['number'],
                'if_late' => $p->ifLate->value,
                'separate_payments' => $p->separatePayments ? 'yes' : '',
                'tax_code' => null === $p->defaultTaxCodeId ? '' : $codes->taxCodes($desk->id())[$p->defaultTaxCodeId]->code,
                ...$this->list->analysis($p->id()),
                'salesperson' => $p->salesperson,
                'commission_percent' => null === $p->commissionPercent ? '' : rtrim(rtrim($p->commissionPercent, '0'), '.'),
                'retired' => $p->retired ? 'yes' : '',
                ...$this->profile->form($p, $desk->company->baseCurrency),
                'banks' => $this->banks->of($p->id()),
                ...$this->details->of($p->id()),
                'iban' => $p->iban,
                'bic' => $p->bic,
                'routing_number' => $p->routingNumber,
                'account_number' => $p->accountNumber,
                'credit_limit' => null === $p->creditLimit ? '' : Money::of($p->creditLimit, $desk->company->baseCurrency)->decimal(),
                '_version' => (string) $p->version,
            ],
            $p,
            [],
        );
    }

    #[Route('/party/save', name: 'party_save', methods: ['POST'])]
    #[Needs('enter')]
    public function save(Desk $desk, Side $side, Request $request, SaveParty $saveParty): Response
    {
        $id = self::int($request->request, '_id') ?: null;
        try {
            $party = $saveParty->save(
                $desk->actor,
                $side,
                ['separate_payments' => '', ...$request->request->all()],
                $id,
                false,
                null === $id ? null : self::int($request->request, '_version'),
            );
        } catch (Refused $e) {
            return $this->form(
                $desk,
                $side,
                $request->request->all(),
                null === $id ? null : $this->party($desk, $side, $id),
                $e->problems,
            );
        }
        $this->say(
            \sprintf(
                '%s %s is saved.%s',
                $party->code,
                $party->name,
                $party->bankConfirmed
                    ? ''
                    : ' The bank details wait for a second person; until then nothing is transferred there.',
            ),
        );

        return $this->redirectToRoute(
            'party',
            ['company' => $desk->company->code, 'side' => $side->value, 'id' => $party->id],
            303,
        );
    }

    #[Route('/party/{id<\d+>}/confirm', name: 'party_confirm', methods: ['POST'])]
    #[Needs(Permission::Approve)]
    public function confirm(Desk $desk, Side $side, int $id, Request $request, SaveParty $saveParty): Response
    {
        $this->party($desk, $side, $id);

        return $this->act(
            static fn (): string => \sprintf(
                'The bank details of %s are confirmed.',
                $saveParty->confirmBankDetails($desk->actor, $id, (string) $request->request->get('_seen', ''))->name,
            ),
            'party',
            ['company' => $desk->company->code, 'side' => $side->value, 'id' => $id],
        );
    }

    /** Who this may be already, beside the form. */
    #[Route('/party/twins', name: 'party_twins', methods: ['POST'])]
    #[Needs('enter')]
    public function alike(Desk $desk, Side $side, Request $request): Response
    {
        $text = static fn (string $key): string => mb_substr((string) $request->request->get($key, ''), 0, 160);

        return $this->render('setup/parties/_twins.html.twig', [
            'side' => $side,
            'twins' => $this->twins->of(
                $desk->id(),
                $side,
                $text('name'),
                $text('tax_number'),
                $text('iban'),
                $text('routing_number'),
                $text('account_number'),
                self::int($request->request, '_id') ?: null,
            ),
        ]);
    }

    /** Vendor and customer are one business: said on both, or taken back. */
    #[Route('/party/{id<\d+>}/link', name: 'party_link', methods: ['POST'])]
    #[Needs('enter')]
    public function link(
        Desk $desk,
        Side $side,
        int $id,
        Request $request,
        SaveParty $saveParty,
        Lookup $lookup,
    ): Response {
        $party = $this->party($desk, $side, $id);

        return $this->act(
            static function () use ($desk, $side, $id, $party, $request, $saveParty, $lookup): string {
                if ('unlink' === $request->request->get('_action')) {
                    $saveParty->unlink($desk->actor, $id);

                    return 'The link is taken away on both.';
                }
                $other = $side->other();
                $found = $lookup->party(
                    $desk->id(),
                    $other,
                    trim((string) $request->request->get('linked', '')),
                    'linked',
                );
                $saveParty->link(
                    $desk->actor,
                    Side::Payables === $side ? $id : $found->id(),
                    Side::Payables === $side ? $found->id() : $id,
                );

                return \sprintf('%s and %s are one business; both say so.', $party->code, $found->code);
            },
            'party',
            ['company' => $desk->company->code, 'side' => $side->value, 'id' => $id],
        );
    }

    /** The few fields of a new vendor or customer that an invoice or receipt needs, beside its picker; the rest can be added later. */
    #[Route('/party/quick', name: 'party_quick', methods: ['GET', 'POST'])]
    #[Needs('enter')]
    public function quick(Desk $desk, Side $side, Request $request, SaveParty $saveParty): Response
    {
        $problems = [];
        $form = $request->isMethod('POST')
            ? $request->request->all()
            : [
                'code' => $this->list->nextCode($desk->id(), $side),
                'name' => mb_substr(trim((string) $request->query->get('name', '')), 0, 120),
            ];
        if ($request->isMethod('POST')) {
            try {
                $party = $saveParty->save(
                    $desk->actor,
                    $side,
                    array_intersect_key($form, array_flip(['code', 'name', 'terms', 'currency', 'default_account'])),
                );

                return new JsonResponse(['code' => $party->code, 'name' => $party->name], 201);
            } catch (Refused $e) {
                $problems = $e->problems;
            }
        }

        return $this->render(
            'setup/parties/_quick.html.twig',
            ['side' => $side, 'form' => $form, 'problems' => $problems, 'errors' => self::byField($problems)],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    /** What a picker offers for what was typed: code, start of any word of the name, tax number or address; recent ones first. */
    #[Route(
        '/pick/{what}',
        name: 'pick',
        requirements: ['what' => 'party|account|tax_code|terms|cost_center|department|project'],
        methods: ['GET'],
    ),]
    #[Needs('see')]
    public function pick(Desk $desk, Side $side, string $what, Request $request, WhoOwes $whoOwes): JsonResponse
    {
        $q = (string) $request->query->get('q', '');

        return new JsonResponse(
            $this->pickers->find($desk->id(), $side, $what, $q) ?:
            ('party' === $what
                ? $whoOwes->find($desk->id(), $side, mb_substr(trim($q), 0, 40))
                : []),
        );
    }

    private function party(Desk $desk, Side $side, int $id): Party
    {
        $party = $this->entities->find(Party::class, $id);
        if (!($party instanceof Party) || $party->companyId !== $desk->id() || $party->side !== $side) {
            throw $this->createNotFoundException(\sprintf('There is no such %s in this company.', $side->partyWord()));
        }

        return $party;
    }

    /**
     * @param array<mixed> $form
     * @param list<\Nelbix\Core\Problem> $problems
     */
    private function form(Desk $desk, Side $side, array $form, ?Party $party, array $problems): Response
    {
        return $this->render(
            'setup/parties/form.html.twig',
            [
                'side' => $side,
                'form' => $form,
                'party' => $party,
                'twins' => [],
                'ladders' => $this->profile->ladders($desk->id(), $party),
                'controls' => $this->profile->accounts($desk->id(), $side->controlRole()),
                'prepayments' => $this->profile->accounts($desk->id(), $side->prepaymentRole()),
                'statements' => PartyProfile::STATEMENTS,
                'languages' => Letters::LANGUAGES,
                'history' => null === $party ? [] : $this->history->of($desk->id(), 'party', $party->id()),
                'problems' => $problems,
                'errors' => self::byField($problems),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }
}
