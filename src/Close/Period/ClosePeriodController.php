<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Period;

use Nelbix\App\Ledger\AddYear;
use Nelbix\App\Ledger\LockPeriod;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Calendar\PeriodPlan;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The close of a period: its gates, its locks, and the periods of the next year. */
#[Route('/{company}/close', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class ClosePeriodController extends Screen
{
    #[Route('', name: 'close', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function close(
        Desk $desk,
        Request $request,
        PeriodGate $periods,
        ClosingGates $gates,
        AddYear $addYear,
    ): Response {
        $all = $periods->of($desk->id());
        $at = self::chosen($all, self::int($request->query, 'period'), $desk->today);
        if (null === $at) {
            throw $this->createNotFoundException('There is no such period in this company.');
        }
        $period = $all[$at];

        return $this->render('close/period.html.twig', [
            'period' => $period,
            'before' => $all[$at - 1] ?? null,
            'after' => $all[$at + 1] ?? null,
            'periods' => $all,
            'gates' => $gates->of(
                $desk->id(),
                $desk->company->baseCurrency,
                (int) $period['year'],
                Day::of((string) $period['last_day']),
            ),
            'next_year' => $addYear->next($desk->id()),
            'patterns' => PeriodPlan::PATTERNS,
        ]);
    }

    #[Route('/lock', name: 'period_lock', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function lock(Desk $desk, Request $request, LockPeriod $lock): Response
    {
        $period = self::int($request->request, 'period');

        return $this->act(
            static fn (): string => $lock->set(
                $desk->actor,
                $period,
                $request->request->getString('which'),
                // from what the page showed to its other, never to whatever it is not now
                'open' === $request->request->get('is'),
                $request->request->getString('why'),
            ),
            'close',
            ['company' => $desk->company->code, 'period' => $period],
        );
    }

    #[Route('/year', name: 'periods_add', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function addYear(Desk $desk, Request $request, AddYear $addYear): Response
    {
        $year = self::int($request->request, 'year');

        return $this->act(
            static function () use ($desk, $request, $addYear, $year): string {
                $addYear->add($desk->actor, $year, $request->request->getString('pattern') ?: 'months');

                return \sprintf('The periods of %d are there, open for everything.', $year);
            },
            'close',
            ['company' => $desk->company->code],
        );
    }

    #[Route('/numbers', name: 'number_gaps', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function numbers(Desk $desk, Request $request, NumberGaps $gaps): Response
    {
        $year = self::int($request->query, 'year', $desk->today->year);
        $rows = [];
        foreach ($gaps->of($desk->id(), $year) as $r) {
            $rows[] = [
                ...$r,
                'numbers' => $r['missing'] > 0 ? $gaps->missing($desk->id(), $r['sequence'], $r['used']) : [],
            ];
        }

        return $this->render('close/numbers.html.twig', ['rows' => $rows, 'year' => $year]);
    }

    /**
     * @param list<array<string, mixed>> $all
     *
     * @return int|null where the chosen one stands; of none, the first that has ended and is open for something, else that of today
     */
    private static function chosen(array $all, int $id, Day $today): ?int
    {
        $current = null;
        foreach ($all as $k => $p) {
            $ended = (string) $p['last_day'] < $today->iso();
            if ($id === (int) $p['id']) {
                return $k;
            }
            if (0 === $id && $ended && (!$p['ledger_locked'] || !$p['payables_locked'] || !$p['receivables_locked'])) {
                return $k;
            }
            if (!$ended && null === $current) {
                $current = $k;
            }
        }

        return 0 === $id ? $current ?? array_key_last($all) : null;
    }
}
