<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Close\Aging\AgingBy;
use Nelbix\App\Close\Aging\AgingCell;
use Nelbix\App\Close\Aging\AgingCriteria;
use Nelbix\App\Close\Aging\AgingItems;
use Nelbix\App\Close\Aging\AgingQuery;
use Nelbix\Core\Aging\AgingRow;
use Nelbix\Core\Aging\Bucketing;
use Nelbix\Core\Aging\Credits;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use PHPUnit\Framework\Attributes\DataProvider;

/** The aging, its lines and what stands behind each figure. Source: rules.md, Aging; the amounts are added up by hand. */
final class AgingTest extends ScreenCase
{
    protected function setUp(): void
    {
        parent::setUp();
        foreach (['YARD', 'SHOP'] as $code) {
            $this->db()->insert('analysis_code', [
                'company_id' => $this->clerk->companyId,
                'kind' => 'cost_center',
                'code' => $code,
                'name' => ucfirst(strtolower($code)),
                'retired' => 0,
            ]);
        }
        $this->db()->executeStatement("UPDATE party SET party_group = 'MAKERS' WHERE code = 'V-1'");
        // 100.01 of two cost centers, 1 : 2; due 10 May, 36 days over on 15 June
        $this->invoice(Side::Payables, '0', [
            'document_date' => '2026-04-10',
            'posting_date' => '2026-04-12',
            'lines' => [
                ['account' => '5000', 'amount' => '33.34', 'cost_center' => 'YARD'],
                ['account' => '5000', 'amount' => '66.67', 'cost_center' => 'SHOP'],
            ],
        ]);
        $this->invoice(Side::Payables, '400', ['document_date' => '2026-06-10']);
        $this->invoice(Side::Payables, '50', ['document_date' => '2026-05-01', 'kind' => 'credit_note']);
        $this->money(Side::Payables, 3000, kind: DocumentKind::Prepayment);
    }

    public function testEachKindOfLineAddsUpToTheSameAndItsFiguresOpenWhatTheyAreMadeOf(): void
    {
        $expected = [
            'party' => ['Fenwick Timber' => 42001],
            'account' => ['Payables control' => 45001, 'Vendor prepayments' => -3000],
            'group' => ['MAKERS' => 42001],
            'cost_center' => ['no cost center' => 32000, 'Shop' => 6667, 'Yard' => 3334],
            'salesperson' => ['nobody named' => 42001],
            'all' => ['all that is open' => 42001],
        ];
        foreach (AgingBy::cases() as $by) {
            foreach (Credits::cases() as $credits) {
                $criteria = $this->criteria($by, $credits);
                $lines = self::get(AgingQuery::class)->lines($criteria);
                $total = AgingQuery::totals($lines, $criteria->bucketing)[''];
                self::assertSame(42001, $total->total(), $by->value.' '.$credits->value);
                foreach ($lines as $line) {
                    foreach (self::columns($line->row) as $column => $figure) {
                        self::assertSame(
                            $figure,
                            $this->behind($criteria, new AgingCell($line->key, (string) $column)),
                            $by->value.' '.$line->name.' '.$column.' '.$credits->value,
                        );
                    }
                }
                foreach (self::columns($total) as $column => $figure) {
                    self::assertSame($figure, $this->behind($criteria, new AgingCell(null, (string) $column)));
                }
                if (Credits::Own === $credits && isset($expected[$by->value])) {
                    $named = [];
                    foreach ($lines as $line) {
                        $named[$line->name] = $line->row->total();
                    }
                    ksort($named);
                    ksort($expected[$by->value]);
                    self::assertSame($expected[$by->value], $named);
                }
            }
        }
    }

    public function testWhereCreditsAndPrepaymentsStand(): void
    {
        $row = fn (Credits $credits): AgingRow => AgingQuery::totals(
            self::get(AgingQuery::class)->lines($criteria = $this->criteria(AgingBy::Party, $credits)),
            $criteria->bucketing,
        )[''];
        $own = $row(Credits::Own);
        self::assertSame(
            [40000, [0, 10001, 0, 0], -5000, -3000],
            [$own->notDue, $own->buckets, $own->credits, $own->prepayments],
        );
        $netted = $row(Credits::Netted);
        self::assertSame([0, -3000], [$netted->credits, $netted->prepayments]);
        $all = $row(Credits::All);
        self::assertSame([0, 0, 42001], [$all->credits, $all->prepayments, $all->total()]);
    }

    public function testOnlyWhatIsAtLeastSoManyDaysOver(): void
    {
        foreach ([36 => 10001, 37 => 0] as $days => $total) {
            $criteria = $this->criteria(AgingBy::Party, Credits::Own, $days);
            self::assertSame(
                $total,
                array_sum(
                    array_map(static fn ($l): int => $l->row->total(), self::get(AgingQuery::class)->lines($criteria)),
                ),
            );
            self::assertSame($total, $this->behind($criteria, new AgingCell(null)));
            self::assertSame(42001, self::get(AgingQuery::class)->all($criteria), 'the foot still compares everything');
        }
    }

    public function testDocumentCurrencyHasALineAndATotalForEach(): void
    {
        $this->invoice(Side::Payables, '200', ['currency' => 'EUR', 'rate' => '1.10']);
        $criteria = new AgingCriteria(
            $this->clerk->companyId,
            Side::Payables,
            Day::of(self::DAY),
            new Bucketing([30]),
            inDocumentCurrency: true,
        );
        $totals = AgingQuery::totals(self::get(AgingQuery::class)->lines($criteria), $criteria->bucketing);
        self::assertSame(
            ['EUR' => 20000, 'USD' => 42001],
            array_map(static fn (AgingRow $r): int => $r->total(), $totals),
        );
    }

    public function testThePageOpensAFigureAndItsFilesAreReady(): void
    {
        $this->as('payables');
        $page = $this->page('/TEST/payables/aging?by=due&buckets=30x3&rows=party&in=base&credits=own&at_least=');
        self::assertStringContainsString('ties', $page->filter('.foot')->text());
        $figure = $page->filter('tbody a.figure')->reduce(static fn ($a): bool => '100.01' === trim($a->text()));
        $behind = $this->page((string) $figure->attr('href'));
        self::assertCount(1, $behind->filter('tbody tr'));
        self::assertStringContainsString('100.01', $behind->filter('.foot')->text());
        foreach (['csv' => 'text/csv', 'xlsx' => 'spreadsheetml', 'pdf' => 'application/pdf'] as $format => $type) {
            foreach (['party', 'document', 'cost_center'] as $rows) {
                $this->browser->request('GET', '/TEST/payables/aging?rows='.$rows.'&format='.$format);
                self::assertStringContainsString(
                    $type,
                    (string) $this->browser->getResponse()->headers->get('Content-Type'),
                );
            }
        }
    }

    public function testAViewIsKeptUnderANameForThePersonAlone(): void
    {
        $this->as('payables');
        $view = ['by' => 'posting', 'buckets' => '3m', 'rows' => 'group', 'in' => 'base', 'credits' => 'all'];
        $this->post('/TEST/payables/aging', '/TEST/payables/aging/view', [
            'view_name' => 'For the bank',
            'do' => 'keep',
            ...$view,
        ]);
        $page = $this->page('/TEST/payables/aging');
        $link = $page->selectLink('For the bank');
        self::assertCount(1, $link);
        $again = $this->page((string) $link->attr('href'));
        self::assertSame('3m', $again->filter('input[name=buckets]')->attr('value'));
        self::assertSame('group', $again->filter('select[name=rows] option[selected]')->attr('value'));
        $this->as('controller');
        self::assertCount(0, $this->page('/TEST/payables/aging')->selectLink('For the bank'));
        $this->as('payables');
        $this->post('/TEST/payables/aging', '/TEST/payables/aging/view', [
            'view_name' => 'For the bank',
            'do' => 'drop',
        ]);
        self::assertCount(0, $this->page('/TEST/payables/aging')->selectLink('For the bank'));
        $refused = $this->post('/TEST/payables/aging', '/TEST/payables/aging/view', [
            'view_name' => ' ',
            'do' => 'keep',
        ]);
        self::assertCount(1, $refused->filter('.said-refused'));
    }

    /** @return iterable<string, array{string, string}> */
    public static function wrong(): iterable
    {
        yield 'buckets that do not rise' => ['buckets=60,30', 'rise'];
        yield 'too many months' => ['buckets=13m', '12 months'];
        yield 'days that are no number' => ['at_least=x', 'number of days'];
        yield 'a day that is none' => ['as_of=2026-02-30', '30'];
    }

    #[DataProvider('wrong')]
    public function testWhatCannotBeReadIsSaid(string $asked, string $says): void
    {
        $this->as('payables');
        self::assertStringContainsString(
            $says,
            $this->page('/TEST/payables/aging?'.$asked)
                ->filter('[role=alert]')
                ->text(),
        );
    }

    private function criteria(AgingBy $by, Credits $credits, int $atLeast = 0): AgingCriteria
    {
        return new AgingCriteria(
            $this->clerk->companyId,
            Side::Payables,
            Day::of(self::DAY),
            new Bucketing([30, 60, 90]),
            rows: $by,
            credits: $credits,
            atLeast: $atLeast,
        );
    }

    /** @return array<string|int, int> */
    private static function columns(AgingRow $row): array
    {
        return [
            'not_due' => $row->notDue,
            'credits' => $row->credits,
            'prepayments' => $row->prepayments,
            'total' => $row->total(),
        ] + $row->buckets;
    }

    private function behind(AgingCriteria $criteria, AgingCell $cell): int
    {
        // what a column of its own takes is not behind another one
        if (\in_array($cell->column, ['credits', 'prepayments'], true)) {
            $class = 'credits' === $cell->column ? 'credit' : 'prepayment';
            if ($criteria->credits->nets($class)) {
                return 0;
            }
        }

        return array_sum(
            array_column(iterator_to_array(self::get(AgingItems::class)->each($criteria, $cell)), 'open_base'),
        );
    }
}
