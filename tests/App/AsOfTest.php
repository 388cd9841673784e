<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\ItemFilter;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;

final class AsOfTest extends AppCase
{
    /** On every day of a random story (seeded): aging = open items = control accounts, and what was open then never changes later. */
    public function testReplayTiesOnEveryDay(): void
    {
        mt_srand(7);
        $items = [];
        $day = Day::of('2026-03-02');
        $snapshots = [];
        for ($n = 0; $n < 40; ++$n) {
            $day = $day->plusDays(mt_rand(0, 3));
            $items[] = [
                $this->itemOf(
                    $this->invoice(Side::Receivables, mt_rand(10, 900).'.50', ['document_date' => $day->iso()]),
                ),
                $day,
            ];
            // a discount that holds on every day of the test
            $this->db()->executeStatement("UPDATE item_discount SET through = '2027-12-31'");
            [$item, $posted] = $items[mt_rand(0, \count($items) - 1)];
            $open = $this->open($item);
            if ($open > 100) {
                $applied = mt_rand(100, $open);
                $this->money(
                    Side::Receivables,
                    $applied - 1,
                    [new PlacementRequest($item, $applied)],
                    [new AdjustmentRequest($item, AdjustmentKind::Discount, -1)],
                    $day->iso(),
                );
            }
            if (0 === $n % 9 && $n > 0) {
                self::get(UndoSettlement::class)->undo(
                    $this->clerk,
                    (int) $this->db()->fetchOne('SELECT MAX(id) FROM settlement WHERE undone_on IS NULL'),
                );
                $snapshots = []; // an undo is dated on the original day and rewrites it
            }
            $snapshots[$day->iso()] = $this->total($day);
        }
        foreach ($snapshots as $iso => $total) {
            self::assertSame($total, $this->total(Day::of($iso)), $iso);
        }
    }

    private function total(Day $day): int
    {
        $aging = $this->agedInAll(Side::Receivables, $day);
        $items = array_sum(
            array_column(
                iterator_to_array(
                    self::get(OpenItemsQuery::class)->each(
                        new ItemFilter($this->clerk->companyId, Side::Receivables, $day),
                    ),
                ),
                'open_base',
            ),
        );
        $tie = array_values(
            array_filter(
                self::get(TieOutQuery::class)->of($this->clerk->companyId, $day),
                static fn (array $r): bool => '1200' === $r['account'],
            ),
        )[0]['tie'];
        self::assertSame(
            [$aging, $aging, $aging, 0],
            [$items, $tie->ledger, $tie->items, $tie->difference()],
            $day->iso(),
        );

        return $aging;
    }
}
