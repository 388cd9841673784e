<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Parties\PartyProfile;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Proposal\Candidate;
use Nelbix\Core\Proposal\Criteria;
use Nelbix\Core\Proposal\Decision;
use Nelbix\Core\Proposal\ProposalResult;
use Nelbix\Core\Proposal\ProposedPayment;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** What is due, and payment proposals out of it: ask, look, make. */
#[Route('/{company}/payables', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ProposalController extends Screen
{
    /** So many rows stand under what is in, and under what is out. */
    private const SHOWN = 200;

    public function __construct(
        private readonly CriteriaReader $reader,
        private readonly MakeProposal $makeProposal,
        private readonly PayHabits $habits,
        private readonly ItemLabels $labels,
        private readonly BankAccounts $banks,
    ) {
    }

    #[Route('/proposals', name: 'proposals', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function list(Desk $desk, Request $request, ProposalQuery $query): Response
    {
        $rows = $query->list($desk->id(), self::wantsFile($request) ? null : ProposalQuery::LISTED);
        if (self::wantsFile($request)) {
            $d = static fn (array $r, string $key): string => Money::of(
                (int) $r[$key],
                (string) $r['currency'],
            )->decimal();

            return $this->exported(
                $request,
                'payment-proposals',
                [
                    'number',
                    'state',
                    'pay_date',
                    'bank',
                    'method',
                    'made_by',
                    'decided_by',
                    'payments',
                    'currency',
                    'discount',
                    'pay',
                ],
                array_map(
                    static fn (array $r): array => [
                        (string) $r['number'],
                        (string) $r['state'],
                        (string) $r['pay_date'],
                        (string) $r['bank'],
                        (string) $r['method'],
                        (string) $r['made_by'],
                        (string) $r['decided_by'],
                        (string) $r['payments'],
                        (string) $r['currency'],
                        $d($r, 'discount'),
                        $d($r, 'pay'),
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('payables/proposals.html.twig', ['rows' => $rows]);
    }

    #[Route('/proposal', name: 'proposal_new', methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function ask(Desk $desk, Request $request, BankOutlook $outlook, PartyProfile $profile): Response
    {
        $raw = $request->query->all();
        $of = \is_string($raw['of'] ?? null) ? $raw['of'] : '';
        if (1 === preg_match('/\A[A-Z0-9]{2,12}\z/', $of) && $of !== $desk->company->code) {
            return $this->ofAnother($request, $of);
        }
        $problems = [];
        $result = $criteria = $river = $other = null;
        $span = (int) (\is_string($raw['span'] ?? null) ? $raw['span'] : 0);
        $names = $currencies = [];
        try {
            if (\is_string($raw['habit'] ?? null) && '' !== $raw['habit']) {
                $raw = [
                    ...$this->habits->start($desk->actor, $raw['habit'], $desk->today),
                    'span' => $raw['span'] ?? '',
                ];
            }
            ['criteria' => $criteria] = $this->reader->read($desk->actor, $raw);
            $flow = new RiverFlow($criteria, \in_array($span, DueRiver::SPANS, true) ? $span : DueRiver::SPANS[0]);
            $result = $this->workOut($desk, $criteria, $flow, $currencies);
            if (\is_string($raw['with'] ?? null) && '' !== $raw['with']) {
                $other = $this->compared($desk, $raw['with'], $criteria, $result);
            }
            $names = $this->labels->of($desk->id(), [...$flow->named(), ...self::shown($result)]);
            $river = DueRiver::of($flow, $names);
        } catch (Refused $e) {
            $problems = $e->problems;
        }
        $banks = $this->banks->inUse($desk->id());
        $asked = \is_string($raw['bank'] ?? null) ? $raw['bank'] : '';
        $account = array_values(
            array_filter($banks, static fn (BankRow $b): bool => '' === $asked || $b->code === $asked),
        );
        $bank =
            [] === $account
                ? null
                : $outlook->of(
                    $desk->id(),
                    $account[0],
                    $desk->company->baseCurrency,
                    $desk->today,
                    $criteria->payDate ?? $desk->today,
                );
        $parameters = [
            'raw' => $raw,
            'criteria' => $criteria,
            'result' => $result,
            'numbers' => $names,
            'shown' => self::SHOWN,
            'bank' => $bank,
            'taken' => null === $bank || null === $result || null === $criteria
                    ? 0
                    : $outlook->taken(
                        $desk->id(),
                        $bank,
                        $result->totals()['pay'],
                        $criteria->currency,
                        $criteria->payDate,
                    ),
            'errors' => self::byField($problems),
            'problems' => $problems,
            'methods' => CriteriaReader::choices(),
            'river' => $river,
            'spans' => DueRiver::SPANS,
            'habits' => $this->habits->of($desk->actor),
            'groups' => $profile->groups($desk->id(), Side::Payables),
            'other' => $other,
            'currencies' => $currencies,
            'banks' => array_column($banks, 'name', 'code'),
        ];

        return $this->render(
            'payables/proposal_new.html.twig',
            $parameters,
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    /**
     * The proposal, of which only what is shown is held; all of it flows into the river.
     *
     * @param list<string> $currencies of all that is open
     */
    private function workOut(Desk $desk, Criteria $criteria, RiverFlow $flow, array &$currencies): ProposalResult
    {
        $found = [];
        $out = 0;
        $see = static function (Decision $d) use ($flow, &$found): void {
            $flow->add($d);
            $found[$d->candidate->item->currency] = true;
        };
        $result = $this->makeProposal->workOut($desk->actor, $criteria, static function (Decision $d) use (
            $see,
            &$out,
        ): bool {
            $see($d);

            return ++$out <= self::SHOWN;
        });
        array_map($see, $result->in);
        ksort($found);
        $currencies = array_keys($found);

        return $result;
    }

    /** @return list<int> items whose vendor and number the page says */
    private static function shown(ProposalResult $result): array
    {
        return [
            ...array_map(static fn (Decision $d): int => $d->candidate->item->id, [
                ...\array_slice($result->in, 0, self::SHOWN),
                ...$result->out,
            ]),
            ...array_map(
                static fn (ProposedPayment $p): int => $p->decisions[0]->candidate->item->id,
                \array_slice($result->payments, 0, self::SHOWN),
            ),
            ...array_map(static fn (Candidate $c): int => $c->item->id, $result->prepayments),
        ];
    }

    /** The same days in another company; what belongs to one company only, its bank and vendors, stays behind. */
    private function ofAnother(Request $request, string $company): Response
    {
        $url = $this->generateUrl('proposal_new', [
            'company' => $company,
            ...array_filter(
                array_intersect_key(
                    $request->query->all(),
                    array_flip(['pay_date', 'due_through', 'again_on', 'method', 'if_late', 'span']),
                ),
                is_string(...),
            ),
        ]);

        return self::isLive($request)
            ? new Response('', Response::HTTP_OK, ['HX-Redirect' => $url])
            : $this->redirect($url);
    }

    /**
     * The same day by the criteria of a habit, and which items only one of the two takes in.
     *
     * @return array{name: string, totals: array<string, int>, payments: int, only_here: list<Decision>, only_there: list<Decision>}
     */
    private function compared(Desk $desk, string $habit, Criteria $criteria, ProposalResult $result): array
    {
        ['criteria' => $others] = $this->reader->read(
            $desk->actor,
            $this->habits->start($desk->actor, $habit, $criteria->payDate),
        );
        $there = $this->makeProposal->workOut($desk->actor, $others, static fn (Decision $d): bool => false);

        return [
            'name' => $habit,
            'totals' => $there->totals(),
            'payments' => \count($there->payments),
            'only_here' => $result->inButNot($there),
            'only_there' => $there->inButNot($result),
        ];
    }

    /** Keeps the criteria of the page as a pay habit, renames or removes one. */
    #[Route('/habit', name: 'habit', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function habit(Desk $desk, Request $request): Response
    {
        $raw = $request->request->all();
        $name = (string) $request->request->get('habit_name', '');
        $id = self::int($request->request, 'habit');

        return $this->act(
            function () use ($desk, $request, $raw, $name, $id): string {
                switch ($request->request->get('_action')) {
                    case 'rename':
                        $this->habits->rename($desk->actor, $id, $name);

                        return 'The pay habit has its new name.';
                    case 'remove':
                        $this->habits->remove($desk->actor, $id);

                        return 'The pay habit is gone.';
                    default:
                        $habit = $this->habits->keep(
                            $desk->actor,
                            $name,
                            '' !== $request->request->get('shared', ''),
                            $raw,
                        );

                        return \sprintf(
                            'Kept as the pay habit “%s”%s. Next time it starts with its dates moved on.',
                            $habit->name,
                            $habit->shared ? ', for everybody in the company' : '',
                        );
                }
            },
            'proposal_new',
            [
                'company' => $desk->company->code,
                ...array_filter(
                    $raw,
                    static fn (mixed $v, string|int $k): bool => \is_string($v)
                        && '' !== $v
                        && '_' !== ((string) $k)[0]
                        && !\in_array($k, ['habit', 'habit_name', 'shared'], true),
                    \ARRAY_FILTER_USE_BOTH,
                ),
            ],
        );
    }

    #[Route('/proposal', name: 'proposal_make', methods: ['POST'])]
    #[Needs(Permission::PayVendors)]
    public function make(Desk $desk, Request $request): Response
    {
        $raw = $request->request->all();
        try {
            ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = $this->reader->read(
                $desk->actor,
                $raw,
            );
            $spoken = array_filter(
                array_map(
                    static fn (mixed $v): string => \is_array($v)
                        ? implode(',', array_map(static fn (mixed $w): string => \is_string($w) ? $w : '', $v))
                        : (string) $v,
                    array_filter(
                        $raw,
                        static fn (string|int $k): bool => '_' !== ((string) $k)[0],
                        \ARRAY_FILTER_USE_KEY,
                    ),
                ),
            );
            $id = $this->makeProposal->make($desk->actor, $criteria, $bank, $method, $spoken, FormKey::of($request));
        } catch (Refused $e) {
            $this->addFlash('refused', $e->getMessage());

            return $this->redirectToRoute(
                'proposal_new',
                [
                    'company' => $desk->company->code,
                    ...array_filter(
                        $raw,
                        static fn (mixed $v, string|int $k): bool => \is_string($v) && '_' !== ((string) $k)[0],
                        \ARRAY_FILTER_USE_BOTH,
                    ),
                ],
                303,
            );
        }
        $this->say('Proposal made. Its items are reserved; somebody else must approve it before checks are printed.');

        return $this->redirectToRoute('proposal', ['company' => $desk->company->code, 'id' => $id], 303);
    }
}
