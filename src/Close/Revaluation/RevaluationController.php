<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Revaluation;

use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The revaluation of what is open in other currencies, and exchange gains and losses. */
#[Route('/{company}/close', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class RevaluationController extends Screen
{
    private const BY = ['item', 'party', 'account'];

    public function __construct(private readonly BooksDay $booksDay)
    {
    }

    #[Route('/revaluation', name: 'revaluation', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function revaluation(
        Desk $desk,
        Request $request,
        ProposeRevaluation $propose,
        RevaluationsQuery $posted,
        Chart $chart,
    ): Response {
        // a month is closed after its end: the day before this month, unless another is asked for
        $usual = Day::ymd($desk->today->year, $desk->today->month, 1)->plusDays(-1);
        [$asOf, $error] = $this->day($desk, $request, 'as_of', $usual);
        $base = $desk->company->baseCurrency;
        $by = \in_array($request->query->get('by'), self::BY, true) ? (string) $request->query->get('by') : 'item';
        try {
            $proposed = $propose->of($desk->id(), $base, $asOf);
        } catch (Refused $e) {
            [$proposed, $error] = [null, $e->getMessage()];
        }
        $rows = $proposed?->rows($by) ?? [];
        if (self::wantsFile($request)) {
            $d = static fn (int $v, string $c): string => Money::of($v, $c)->decimal();

            return $this->exported(
                $request,
                'revaluation-'.$asOf->iso(),
                [$by, 'party', 'currency', 'open', 'open_base', 'closing_rate', 'worth', 'difference', 'gain'],
                array_map(
                    static fn (array $r): array => [
                        $r['name'],
                        $r['party'],
                        $r['currency'],
                        $d($r['open'], $r['currency']),
                        $d($r['old'], $base),
                        $proposed->rates[$r['currency']]['rate'] ?? '',
                        $d($r['new'], $base),
                        $d($r['difference'], $base),
                        $d($r['gain'], $base),
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('close/revaluation.html.twig', [
            'proposed' => $proposed,
            'rows' => $rows,
            'as_of' => $asOf,
            'by' => $by,
            'error' => $error,
            'posted' => $posted->of($desk->id()),
            'accounts' => $chart->accounts($desk->id()),
        ]);
    }

    #[Route('/revaluation', name: 'revaluation_post', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function post(Desk $desk, Request $request, PostRevaluation $post): Response
    {
        return $this->act(
            function () use ($desk, $request, $post): string {
                $asOf = $this->booksDay->asked($desk->id(), $request->request, 'as_of', $desk->today);
                $post->post($desk->actor, $asOf, $request->request->getString('seen'));

                return \sprintf(
                    'Posted the revaluation of %s in two entries: it stands on that day and is taken back on %s.',
                    $asOf->long(),
                    $asOf->plusDays(1)->long(),
                );
            },
            'revaluation',
            ['company' => $desk->company->code, ...self::asked($request->request, ['as_of'])],
        );
    }

    #[Route('/revaluation/{id<\d+>}/undo', name: 'revaluation_undo', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function undo(Desk $desk, int $id, Request $request, PostRevaluation $post): Response
    {
        return $this->act(
            static function () use ($desk, $id, $request, $post): string {
                $post->undo($desk->actor, $id, $request->request->getString('why'));

                return 'Undone: both entries are reversed on their own days.';
            },
            'revaluation',
            ['company' => $desk->company->code],
        );
    }

    #[Route('/gains', name: 'gains', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function gains(Desk $desk, Request $request, GainsQuery $query): Response
    {
        [$from, $wrong] = $this->day($desk, $request, 'from', Day::ymd($desk->today->year, 1, 1));
        [$to, $error] = $this->day($desk, $request, 'to', $desk->today);
        $by = \in_array($request->query->get('by'), GainsQuery::BY, true)
            ? (string) $request->query->get('by')
            : 'party';
        $rows = $query->of($desk->id(), $from, $to, $by);
        if (self::wantsFile($request)) {
            $d = static fn (int $v): string => Money::of($v, $desk->company->baseCurrency)->decimal();

            return $this->exported(
                $request,
                'exchange-gains-'.$to->iso(),
                [$by, 'realised', 'unrealised'],
                array_map(static fn (array $r): array => [$r['name'], $d($r['realised']), $d($r['unrealised'])], $rows),
            );
        }

        return $this->render('close/gains.html.twig', [
            'rows' => $rows,
            'from' => $from,
            'to' => $to,
            'by' => $by,
            'error' => $wrong ?? $error,
            'ledger' => $query->ledger($desk->id(), $from, $to),
        ]);
    }

    /** @return array{Day, ?string} */
    private function day(Desk $desk, Request $request, string $field, Day $else): array
    {
        try {
            return [$this->booksDay->asked($desk->id(), $request->query, $field, $else), null];
        } catch (Refused $e) {
            return [$else, $e->getMessage()];
        }
    }
}
