<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\ItemFilter;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Setup\WaterLine;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** The drawing of a party's balance says on every day what the replay of its items says. */
final class WaterLineTest extends ScreenCase
{
    public function testItAgreesWithTheReplayOnEveryDay(): void
    {
        $party = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1'");
        $early = $this->invoice(Side::Receivables, '40.00', ['document_date' => '2025-03-03', 'terms' => 'N30']);
        $a = $this->invoice(Side::Receivables, '100.00', ['document_date' => '2026-03-02', 'terms' => 'N30']);
        $this->invoice(Side::Receivables, '70.00', ['document_date' => '2026-05-20', 'terms' => 'N30']);
        $this->invoice(Side::Receivables, '9.00', ['document_date' => '2026-05-25', 'kind' => 'credit_note']);
        $this->money(Side::Receivables, 4000, [new PlacementRequest($this->itemOf($early), 4000)], [], '2026-04-20');
        $this->money(Side::Receivables, 6000, [new PlacementRequest($this->itemOf($a), 6000)], [], '2026-04-28');
        self::get(UndoSettlement::class)->undo(
            $this->clerk,
            (int) $this->db()->fetchOne('SELECT MAX(id) FROM settlement'),
            Day::of('2026-05-11'),
        );
        $water = self::get(WaterLine::class)->of(
            $this->clerk->companyId,
            Side::Receivables,
            $party,
            Day::of(self::DAY),
        );
        self::assertSame(
            '2025-06-15',
            $water['steps'][0]['day']->iso(),
            'what was there before stands on the first day',
        );
        $at = static function (Day $day) use ($water): array {
            $last = [0, 0];
            foreach ($water['steps'] as $step) {
                $last = $step['day']->isAfter($day) ? $last : [$step['balance'], $step['due']];
            }

            return $last;
        };
        for ($day = $water['from']; !$day->isAfter($water['to']); $day = $day->plusDays(1)) {
            $foot = self::get(OpenItemsQuery::class)->foot(
                new ItemFilter($this->clerk->companyId, Side::Receivables, $day, $party),
            );
            self::assertSame($foot['base'], $at($day)[0], $day->iso());
        }
        // 40.00 and 100.00 were due in spring; 100.00 is due again since the settlement was undone, less the money and the credit
        self::assertSame([4000, 4000], $at(Day::of('2025-12-31')));
        self::assertSame([14000, 14000], $at(Day::of('2026-04-10')));
        self::assertSame([10000, 10000], $at(Day::of('2026-04-20')), 'the first payment');
        self::assertSame([4000, 4000], $at(Day::of('2026-04-28')), 'and the second');
        self::assertSame(
            [4000, 4000],
            $at(Day::of('2026-05-11')),
            'undone: the money is unapplied, and counts as due at once',
        );
        self::assertSame(
            [[4000, 383], [6000, 0]],
            array_map(static fn (array $d): array => [$d['amount'], $d['late']], $water['drops']),
            'a settlement that was undone says nothing about how late it was',
        );
    }

    public function testThePageShowsDocumentsWithWhatSettledThemAPageAtATime(): void
    {
        $party = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'");
        $page = '/TEST/payables/party/'.$party;
        self::assertSame('', trim($this->page($page.'/water')->text('', false)), 'nothing to draw yet');
        self::assertCount(0, $this->page($page)->filter('.water-later'));
        self::assertCount(0, $this->page($page)->filter('table.list thead'), 'sections that are empty are not there');
        foreach (range(1, 21) as $n) {
            $last = $this->invoice(Side::Payables, $n.'.00', ['number' => 'N-'.$n]);
        }
        $this->money(
            Side::Payables,
            2100,
            [new PlacementRequest($this->itemOf($last), 2100)],
            [],
            self::DAY,
            \Nelbix\Core\Ledger\DocumentKind::Payment,
        );
        $shown = $this->page($page);
        self::assertCount(1, $this->page((string) $shown->filter('.water-later')->attr('hx-get'))->filter('svg.water'));
        $rows = $shown->filter('table.list')->eq(1)->filter('tbody tr');
        self::assertCount(20, $rows);
        self::assertStringContainsString(
            'PY-26-00001',
            $rows->eq(1)->text(),
            'the payment stands beside the invoice it settled',
        );
        $next = $this->page((string) $shown->filter('[rel=next]')->attr('href'));
        self::assertCount(2, $next->filter('table.list')->eq(1)->filter('tbody tr'));
        self::assertCount(1, $next->filter('[rel=start]'));
    }
}
