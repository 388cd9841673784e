<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Outlook;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Aging\CashOutlook;
use Nelbix\Core\Aging\CashWeek;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The outlook by week, what stands behind each of its figures, and what moving a payment would do. */
#[Route('/{company}/bank/outlook', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class OutlookController extends Screen
{
    private const WEEKS = [6, 13, 26];

    /** So many stand behind a figure on the page; the file has all of them. */
    private const MOST = 300;

    #[Route('', name: 'outlook', methods: ['GET'])]
    #[Needs(Permission::SeeLedger)]
    public function outlook(Desk $desk, Request $request, Outlook $outlook): Response
    {
        $asked = self::int($request->query, 'weeks');
        $weeks = \in_array($asked, self::WEEKS, true) ? $asked : 13;
        $moves = $request->query->all()['move'] ?? [];
        $whatIf = WhatIf::asked(\is_array($moves) ? $moves : [], $desk->today, Outlook::last($desk->today, $weeks));
        $kind = OutlookKind::tryFrom((string) $request->query->get('kind', ''));
        $week = self::int($request->query, 'week');
        if (null !== $kind) {
            $behind = $outlook->behind($desk->company, $desk->today, $weeks, $whatIf, $kind, $week);
        }
        if (self::wantsFile($request) && isset($behind)) {
            return $this->behindFile($desk, $request, $behind);
        }
        $seen = $outlook->of($desk->company, $desk->today, $weeks, $whatIf);
        if (self::wantsFile($request)) {
            return $this->weeksFile($desk, $request, $seen->weeks);
        }
        $shown = [];
        foreach ($seen->weeks as $w) {
            $shown += $w->sums;
        }

        return $this->render('close/outlook.html.twig', [
            'seen' => $seen,
            'drawing' => new OutlookDrawing($seen->opening, $seen->weeks, $seen->plain),
            'marks' => $this->marks($desk->today, $whatIf, $seen),
            'kinds' => array_filter(OutlookKind::cases(), static fn (OutlookKind $k): bool => isset($shown[$k->value])),
            'what_if' => $whatIf,
            'count' => $weeks,
            'counts' => self::WEEKS,
            'kind' => $kind,
            'week' => $week,
            'behind' => $behind ?? [],
            'most' => self::MOST,
        ]);
    }

    /**
     * @return list<array{key: string, day: Day, was: Day, amount: int, name: string, run: bool}> what can be moved
     */
    private function marks(Day $today, WhatIf $whatIf, SeenOutlook $seen): array
    {
        $marks = [];
        foreach ($seen->runs as $r) {
            $was = Day::latest($today, $r->day);
            $marks[] = [
                'key' => 'run-'.$r->id,
                'day' => $whatIf->run($r->id, $was),
                'was' => $was,
                'amount' => $r->amount,
                'name' => $r->number,
                'run' => true,
            ];
        }
        foreach ($seen->weeks as $w) {
            $monday = CashOutlook::monday($w->from);
            $key = 'due-'.$monday->iso();
            $moved = isset($whatIf->moved[$key]);
            $amount = -($w->sums[OutlookKind::Vendors->value] ?? 0);
            if ($moved || $amount > 0) {
                $marks[] = [
                    'key' => $key,
                    'day' => $whatIf->moved[$key] ?? $w->from,
                    'was' => $w->from,
                    'amount' => $amount,
                    'name' => 'due '.$w->from->long(),
                    'run' => false,
                ];
            }
        }

        return $marks;
    }

    /** @param list<Expected> $behind */
    private function behindFile(Desk $desk, Request $request, array $behind): Response
    {
        $in = $desk->company->baseCurrency;

        return $this->exported(
            $request,
            'outlook-behind-'.$desk->today->iso(),
            ['name', 'party', 'due', 'early', 'expected', 'late', 'amount', 'why'],
            array_map(
                static fn (Expected $e): array => [
                    $e->name,
                    $e->party,
                    (string) $e->due?->iso(),
                    $e->flow->early->iso(),
                    $e->flow->usual->iso(),
                    $e->flow->late->iso(),
                    Money::of($e->flow->amount, $in)->decimal(),
                    $e->why,
                ],
                $behind,
            ),
        );
    }

    /** @param non-empty-list<CashWeek> $weeks */
    private function weeksFile(Desk $desk, Request $request, array $weeks): Response
    {
        $d = static fn (int $v): string => Money::of($v, $desk->company->baseCurrency)->decimal();
        $kinds = array_column(OutlookKind::cases(), 'value');

        return $this->exported(
            $request,
            'outlook-'.$desk->today->iso(),
            ['from', 'to', ...$kinds, 'low', 'expected', 'high'],
            array_map(
                static fn (CashWeek $w): array => [
                    $w->from->iso(),
                    $w->to->iso(),
                    ...array_map(static fn (string $k): string => $d($w->sums[$k] ?? 0), $kinds),
                    $d($w->low),
                    $d($w->usual),
                    $d($w->high),
                ],
                $weeks,
            ),
        );
    }
}
