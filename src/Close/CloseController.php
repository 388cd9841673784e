<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

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

/** Tie-out, trial balance and journal entries. */
#[Route('/{company}', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class CloseController extends Screen
{
    public function __construct(private readonly BooksDay $booksDay)
    {
    }

    #[Route('/close', name: 'tie_out', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function tieOut(Desk $desk, Request $request, TieOutQuery $query): Response
    {
        [$asOf, $error] = $this->asOf($desk, $request);
        $rows = $query->of($desk->id(), $asOf);
        $chosen = (string) $request->query->get('account', '');
        $shown = null;
        foreach ($rows as $row) {
            if ($row['account'] === $chosen || ('' === $chosen && null === $shown && 0 !== $row['tie']->difference())) {
                $shown = $row;
            }
        }
        if (self::wantsFile($request)) {
            $d = static fn (int $v): string => Money::of($v, $desk->company->baseCurrency)->decimal();

            return $this->exported(
                $request,
                'tie-out-'.$asOf->iso(),
                ['account', 'name', 'ledger', 'items', 'difference', 'since', 'entry', 'date', 'amount', 'why'],
                array_merge(
                    ...array_map(
                        static fn (array $r): array => array_map(
                            static fn ($e): array => [
                                $r['account'],
                                $r['name'],
                                $d($r['tie']->ledger),
                                $d($r['tie']->items),
                                $d($r['tie']->difference()),
                                (string) $r['tie']->breakDay,
                                null === $e ? '' : $e->source,
                                null === $e ? '' : $e->date,
                                null === $e ? '' : $d($e->amount),
                                null === $e ? '' : $e->why,
                            ],
                            [] === $r['tie']->explainedBy ? [null] : $r['tie']->explainedBy,
                        ),
                        $rows,
                    ),
                ),
            );
        }

        return $this->render('close/tie_out.html.twig', [
            'rows' => $rows,
            'as_of' => $asOf,
            'shown' => $shown,
            'error' => $error,
            'line' => null === $shown ? null : self::breakLine($shown['tie']->byDay, $asOf),
        ]);
    }

    #[Route('/close/trial-balance', name: 'trial_balance', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function trialBalance(Desk $desk, Request $request, TrialBalanceQuery $query): Response
    {
        [$asOf, $error] = $this->asOf($desk, $request);
        $rows = $query->of($desk->id(), $asOf);
        if (self::wantsFile($request)) {
            $d = static fn (int $v): string => Money::of($v, $desk->company->baseCurrency)->decimal();

            return $this->exported(
                $request,
                'trial-balance-'.$asOf->iso(),
                ['account', 'name', 'debit', 'credit', 'balance'],
                array_map(
                    static fn (array $r): array => [
                        $r['account'],
                        $r['name'],
                        $d($r['debit']),
                        $d($r['credit']),
                        $d($r['balance']),
                    ],
                    $rows,
                ),
            );
        }

        return $this->render('close/trial_balance.html.twig', ['rows' => $rows, 'as_of' => $asOf, 'error' => $error]);
    }

    #[Route('/close/account/{id<\d+>}', name: 'account', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function account(Desk $desk, int $id, Request $request, AccountQuery $accounts): Response
    {
        $account =
            $accounts->find($desk->id(), $id) ??
            throw $this->createNotFoundException('There is no such account in this company.');
        [$asOf, $error] = $this->asOf($desk, $request);

        return $this->render('close/account.html.twig', [
            'account' => $account,
            'as_of' => $asOf,
            'error' => $error,
            'balance' => $accounts->balance($id, $asOf),
            'rows' => $accounts->lines($id, $asOf),
        ]);
    }

    #[Route('/close/entry/{number}', name: 'entry', requirements: ['number' => '[A-Z0-9-]{1,30}'], methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function entry(Desk $desk, string $number, EntriesOfNumber $query): Response
    {
        $entries = $query->of($desk->id(), $number);
        if ([] === $entries) {
            throw $this->createNotFoundException(\sprintf('There is no entry or document %s.', $number));
        }

        return $this->render('close/entry.html.twig', ['number' => $number, 'entries' => $entries]);
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
     * The break line as points of an SVG of 840 by 120: a step line over the 30 days up to the day, zero at a third of the height.
     *
     * @param array<string, int> $byDay
     *
     * @return array{path: string, zero: float, days: list<array{x: float, label: string}>, steps: list<array{x: float, y: float,
     *     day: string, amount: int}>}
     */
    private static function breakLine(array $byDay, Day $asOf): array
    {
        $from = $asOf->plusDays(-30);
        $start = 0;
        $steps = [];
        foreach ($byDay as $iso => $amount) {
            if (Day::of($iso)->isBefore($from)) {
                $start = $amount;
            } else {
                $steps[] = ['day' => $iso, 'amount' => $amount];
            }
        }
        $values = [0, $start, ...array_column($steps, 'amount')];
        [$low, $high] = [min($values), max($values)];
        $span = max(1, $high - $low);
        $y = static fn (int $amount): float => 30 + (78 * ($high - $amount)) / $span;
        $x = static fn (Day $day): float => 10 + (820 * $from->daysUntil($day)) / 30;
        $path = \sprintf('M10 %.1f', $y($start));
        $points = [];
        foreach ($steps as $step) {
            $path .= \sprintf('H%.1fV%.1f', $x(Day::of($step['day'])), $y($step['amount']));
            $points[] = ['x' => $x(Day::of($step['day'])), 'y' => $y($step['amount']), ...$step];
        }
        $days = array_map(
            static fn (int $k): array => [
                'x' => $x($from->plusDays($k)),
                'label' => substr($from->plusDays($k)->long(), 0, -5),
            ],
            [0, 10, 20, 30],
        );

        return ['path' => $path.'H830', 'zero' => $y(0), 'days' => $days, 'steps' => $points];
    }
}
