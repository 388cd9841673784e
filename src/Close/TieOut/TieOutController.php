<?php

declare(strict_types=1);

namespace Nelbix\App\Close\TieOut;

use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Nelbix\Core\TieOut\AccountTie;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The tie-out of the control accounts, the break line with what moved it on a day, and what was signed off. */
#[Route('/{company}/close', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class TieOutController extends Screen
{
    public function __construct(
        private readonly BooksDay $booksDay,
        private readonly TieOutQuery $query,
        private readonly SignOffs $signOffs,
        private readonly TieOutCurrencies $currencies,
    ) {
    }

    #[Route('/tie-out', name: 'tie_out', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function tieOut(Desk $desk, Request $request, AccountMovements $movements): Response
    {
        [$asOf, $error] = $this->asOf($desk, $request);
        $rows = $this->query->of($desk->id(), $asOf);
        if (self::wantsFile($request)) {
            return $this->listFile($request, $rows, $asOf, $desk->company->baseCurrency);
        }
        $shown = self::shown($rows, (string) $request->query->get('account', ''));
        $span = self::int($request->query, 'span');
        $span = isset(BreakLine::SPANS[$span]) ? $span : 30;
        $signed = $before = [];
        foreach ($this->signOffs->of($desk->id()) as $s) {
            $signed[$s['account_id']] ??= $s;
            if ($s['as_of'] <= $asOf->iso()) {
                $before[$s['account_id']] ??= $s['id'];
            }
        }

        return $this->render('close/tie_out.html.twig', [
            'rows' => $rows,
            'as_of' => $asOf,
            'shown' => $shown,
            'error' => $error,
            'spans' => BreakLine::SPANS,
            'line' => null === $shown ? null : BreakLine::of($shown['tie']->byDay, $asOf, $span),
            'signed' => $signed,
            'signed_before' => $before,
            'currencies' => null === $shown ? [] : $this->currencies->of($desk->id(), $shown['id'], $shown['role'], $asOf),
            'digests' => array_column(
                array_map(
                    static fn (array $r): array => [
                        $r['account'],
                        SignOffTieOut::digest($r['account'], $asOf, $r['tie']),
                    ],
                    $rows,
                ),
                1,
                0,
            ),
            ...$this->dayOf($desk, $request, $movements, $shown, $asOf),
        ]);
    }

    #[Route('/tie-out/day/{id<\d+>}', name: 'tie_out_day', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function day(Desk $desk, int $id, Request $request, AccountMovements $movements): Response
    {
        [$asOf] = $this->asOf($desk, $request);
        $control =
            $this->query->controls($desk->id())[$id] ??
            throw $this->createNotFoundException('There is no such control account in this company.');

        return $this->render(
            'close/_moved.html.twig',
            $this->dayOf($desk, $request, $movements, ['id' => $id, ...$control], $asOf),
        );
    }

    #[Route('/sign-off', name: 'tie_out_sign', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function sign(Desk $desk, Request $request, SignOffTieOut $signOff): Response
    {
        $raw = $request->request->all();
        $picked = array_filter(\is_array($raw['accounts'] ?? null) ? $raw['accounts'] : [], \is_string(...));
        $seen = array_filter(\is_array($raw['seen'] ?? null) ? $raw['seen'] : [], \is_string(...));

        return $this->act(
            function () use ($desk, $request, $signOff, $picked, $seen): string {
                $day = $this->booksDay->asked($desk->id(), $request->request, 'as_of', $desk->today);
                $digests = [];
                foreach ($picked as $account) {
                    $digests[$account] = $seen[$account] ?? '';
                }
                $signed = $signOff->sign($desk->actor, $day, $digests, $request->request->getString('note'));

                return \sprintf(
                    'Signed off %s as of %s. Nothing was posted; what stood there is kept as it was.',
                    Words::count(\count($signed), 'control account'),
                    $day->long(),
                );
            },
            'tie_out',
            ['company' => $desk->company->code, ...self::asked($request->request, ['as_of'])],
        );
    }

    #[Route('/sign-off/{id<\d+>}', name: 'sign_off', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function signOff(Desk $desk, int $id, Request $request): Response
    {
        $one =
            $this->signOffs->of($desk->id(), $id)[0] ??
            throw $this->createNotFoundException('There is no such sign-off in this company.');
        if (self::wantsFile($request)) {
            return $this->itemsFile($request, $one, $desk->company->baseCurrency);
        }

        return $this->render('close/sign_off.html.twig', [
            'one' => $one,
            'later' => $this->signOffs->later($id),
            'page' => $this->signOffs->items($id, $request->query->getString('after')),
            'begun' => $request->query->has('after'),
        ]);
    }

    /** @return array{Day, ?string} */
    private function asOf(Desk $desk, Request $request): array
    {
        try {
            return [$this->booksDay->asked($desk->id(), $request->query, 'as_of', $desk->today), null];
        } catch (Refused $e) {
            return [$desk->today, $e->getMessage()];
        }
    }

    /**
     * What moved an account on the day that is looked at; the break day when none is asked for.
     *
     * @param array<string, mixed>|null $shown
     *
     * @return array<string, mixed>
     */
    private function dayOf(Desk $desk, Request $request, AccountMovements $movements, ?array $shown, Day $asOf): array
    {
        $tie = $shown['tie'] ?? null;
        $asked = $request->query->getString('day') ?: ($tie instanceof AccountTie ? (string) $tie->breakDay : '');
        if (null === $shown || '' === $asked) {
            return ['day' => null, 'moved' => []];
        }
        try {
            $day = Day::of($asked, 'day');
        } catch (Refused) {
            return ['day' => null, 'moved' => []];
        }
        \assert(\is_int($shown['id']) && $shown['role'] instanceof AccountRole);
        $control = [
            'account' => (string) $shown['account'],
            'name' => (string) $shown['name'],
            'role' => $shown['role'],
        ];

        return [
            'day' => $day,
            'moved' => $movements->differing($desk->id(), [$shown['id'] => $control], $day, $day)[$shown['id']] ?? [],
        ];
    }

    /**
     * @param list<array{id: int, account: string, name: string, role: AccountRole, tie: AccountTie}> $rows
     *
     * @return array{id: int, account: string, name: string, role: AccountRole, tie: AccountTie}|null the chosen one, or the first that does
     *                                                                                                not tie
     */
    private static function shown(array $rows, string $chosen): ?array
    {
        foreach ($rows as $row) {
            if ($row['account'] === $chosen || ('' === $chosen && 0 !== $row['tie']->difference())) {
                return $row;
            }
        }

        return null;
    }

    /** @param list<array{id: int, account: string, name: string, role: AccountRole, tie: AccountTie}> $rows */
    private function listFile(Request $request, array $rows, Day $asOf, string $base): Response
    {
        $d = static fn (int $v): string => Money::of($v, $base)->decimal();
        $lines = [];
        foreach ($rows as $r) {
            foreach ([] === $r['tie']->explainedBy ? [null] : $r['tie']->explainedBy as $e) {
                $lines[] = [
                    $r['account'],
                    $r['name'],
                    $d($r['tie']->ledger),
                    $d($r['tie']->items),
                    $d($r['tie']->difference()),
                    (string) $r['tie']->breakDay,
                    $e->source ?? '',
                    $e->date ?? '',
                    null === $e ? '' : $d($e->amount),
                    $e->why ?? '',
                ];
            }
        }

        return $this->exported(
            $request,
            'tie-out-'.$asOf->iso(),
            ['account', 'name', 'ledger', 'items', 'difference', 'since', 'entry', 'date', 'amount', 'why'],
            $lines,
        );
    }

    /** @param array<string, mixed> $one */
    private function itemsFile(Request $request, array $one, string $base): Response
    {
        $rows = (function () use ($one, $base): \Generator {
            $after = null;
            do {
                ['rows' => $page, 'next' => $after] = $this->signOffs->items((int) $one['id'], $after, 2000);
                foreach ($page as $i) {
                    yield [
                        (string) $i['party'],
                        (string) $i['party_name'],
                        (string) $i['number'],
                        (string) $i['their_number'],
                        (string) $i['kind'],
                        (string) $i['due_date'],
                        (string) $i['currency'],
                        '' === $i['currency'] ? '' : Money::of((int) $i['open'], (string) $i['currency'])->decimal(),
                        Money::of((int) $i['base'], $base)->decimal(),
                    ];
                }
            } while (null !== $after);
        })();

        return $this->exported(
            $request,
            'signed-off-'.$one['account'].'-'.$one['as_of'],
            ['party', 'name', 'number', 'their_number', 'kind', 'due_date', 'currency', 'open', 'open_base'],
            $rows,
        );
    }
}
