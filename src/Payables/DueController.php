<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Money\Money;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/**
 * What is overdue, falls due soon, or earns a discount.
 *
 * @phpstan-import-type DueRow from DueQuery
 */
#[Route('/{company}/payables', requirements: ['company' => '[A-Z0-9]{2,12}'])]
final class DueController extends Screen
{
    private const COLUMNS = [
        'vendor',
        'name',
        'document',
        'their_number',
        'due',
        'days_late',
        'discount_date',
        'discount',
        'yearly_yield',
        'currency',
        'open',
    ];

    #[Route('/due/{which}', name: 'due_list', requirements: ['which' => 'overdue|soon|discounts'], methods: ['GET'])]
    #[Needs(Permission::SeePayables)]
    public function list(Desk $desk, string $which, Request $request, DueQuery $query): Response
    {
        $days = max(1, min(120, self::int($request->query, 'days', 14)));
        $until = $desk->today->plusDays($days);
        if (self::wantsFile($request)) {
            return $this->exported(
                $request,
                'due-'.$which,
                self::COLUMNS,
                self::cells($query->each($desk->id(), $which, $desk->today, $until)),
            );
        }
        $after = $request->query->get('after');

        return $this->render('payables/due.html.twig', [
            'which' => $which,
            'days' => $days,
            'page' => $query->page($desk->id(), $which, $desk->today, $until, \is_string($after) ? $after : null),
            'begun' => null !== $after,
            'foot' => $query->foot($desk->id(), $which, $desk->today, $until),
        ]);
    }

    /**
     * @param iterable<DueRow> $rows
     *
     * @return iterable<list<string>>
     */
    private static function cells(iterable $rows): iterable
    {
        foreach ($rows as $r) {
            yield [
                $r['code'],
                $r['name'],
                $r['number'],
                $r['their_number'],
                $r['due']->iso(),
                (string) $r['days'],
                (string) $r['through']?->iso(),
                Money::of($r['discount'], $r['currency'])->decimal(),
                (string) $r['yield'],
                $r['currency'],
                Money::of($r['open'], $r['currency'])->decimal(),
            ];
        }
    }
}
