<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Close\Outlook\Expected;
use Nelbix\App\Close\Outlook\Outlook;
use Nelbix\App\Close\Outlook\OutlookKind;
use Nelbix\App\Close\Outlook\SeenOutlook;
use Nelbix\App\Close\Outlook\WhatIf;
use Nelbix\App\Goods\KeepOrder;
use Nelbix\App\Goods\OrderReader;
use Nelbix\App\Invoices\KeepRecurring;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Platform\Company;
use Nelbix\App\Receivables\Promises;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** The outlook by week; the figures are worked by hand. The books' day is Monday, 15 June 2026. */
final class OutlookTest extends ScreenCase
{
    /**
     * @param array<string, string> $moves
     */
    private function seen(array $moves = [], int $weeks = 6): SeenOutlook
    {
        [$company, $today] = [$this->company(), Day::of(self::DAY)];

        return self::get(Outlook::class)->of(
            $company,
            $today,
            $weeks,
            WhatIf::asked($moves, $today, Outlook::last($today, $weeks)),
        );
    }

    private function company(): Company
    {
        return self::get(EntityManagerInterface::class)->find(Company::class, $this->clerk->companyId) ?? self::fail();
    }

    /** @return list<array{string, int, string, string, string}> party, amount, early, expected and late day */
    private function behind(OutlookKind $kind, int $week): array
    {
        [$today, $none] = [Day::of(self::DAY), WhatIf::asked([], Day::of(self::DAY), Day::of('2026-12-31'))];

        return array_map(
            static fn (Expected $e): array => [
                $e->party,
                $e->flow->amount,
                $e->flow->early->iso(),
                $e->flow->usual->iso(),
                $e->flow->late->iso(),
            ],
            self::get(Outlook::class)->behind($this->company(), $today, 13, $none, $kind, $week),
        );
    }

    public function testCustomersComeAsLateAsTheyPaid(): void
    {
        // paid 1 day early, 9 and 20 days late; by amount the quarters are 9, 9 and 20
        foreach (
            [['100.00', 10000, '2026-02-28'], ['500.00', 50000, '2026-03-10'], ['400.00', 40000, '2026-03-21']] as $p
        ) {
            [$amount, $minor, $paid] = $p;
            $item = $this->itemOf(
                $this->invoice(Side::Receivables, $amount, [
                    'document_date' => '2026-01-30',
                    'terms' => 'N30',
                    'number' => '',
                    'look_alike_reason' => 'x',
                ]),
            );
            $this->money(Side::Receivables, $minor, [new PlacementRequest($item, $minor)], [], $paid);
        }
        $bank = 100000;
        // due 10 July: 19 July, to 30 July; a credit of 30.00 lowers it
        $this->invoice(Side::Receivables, '250.00', ['document_date' => '2026-06-10', 'terms' => 'N30']);
        $this->invoice(Side::Receivables, '30.00', ['document_date' => '2026-06-11', 'kind' => 'credit_note']);
        $seen = $this->seen([], 13);
        [$weeks, $opening] = [$seen->weeks, $seen->opening];
        self::assertSame($bank, $opening);
        self::assertSame(['customers' => 22000], $weeks[4]->sums, '13 to 19 July');
        self::assertSame([$bank, $bank + 22000, $bank + 22000], [$weeks[4]->low, $weeks[4]->usual, $weeks[4]->high]);
        self::assertSame($bank + 22000, $weeks[6]->low, '27 July to 2 August');
        self::assertSame(
            [['Gannet Sailing School', 22000, '2026-07-19', '2026-07-19', '2026-07-30']],
            $this->behind(OutlookKind::Customers, 4),
        );
        // what is over comes on the promised day
        $this->invoice(Side::Receivables, '70.00', ['document_date' => '2026-05-01', 'terms' => 'N30']);
        $party = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1'");
        self::get(Promises::class)->keep($this->clerk, $party, Day::of('2026-06-24'), 'on the 24th');
        self::assertSame(
            [['Gannet Sailing School', 4000, '2026-06-24', '2026-06-24', '2026-07-05']],
            $this->behind(OutlookKind::Customers, 1),
            'the credit lowers what is due first',
        );
    }

    public function testRunsTakeTheirItemsAndMoveToAnotherDay(): void
    {
        $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-05-01', 'terms' => 'N30']);
        $this->invoice(Side::Payables, '60.00', ['document_date' => '2026-05-30', 'terms' => 'N30']);
        $this->money(Side::Payables, 500, [], [], self::DAY, DocumentKind::Payment);
        $run = $this->printedRun();
        // the run pays what is due today, 100.00; 60.00 less the 5.00 on account is due on 29 June
        $seen = $this->seen();
        [$weeks, $opening] = [$seen->weeks, $seen->opening];
        $taken = -(int) $this->db()->fetchOne(
            'SELECT SUM(pay) FROM proposal_line WHERE proposal_id = ? AND is_in = 1',
            [$run],
        );
        self::assertSame($taken, $weeks[0]->sums['runs'] ?? null);
        self::assertSame(
            16000 - 500,
            -(($weeks[0]->sums['runs'] ?? 0) + ($weeks[0]->sums['vendors'] ?? 0) + ($weeks[2]->sums['vendors'] ?? 0)),
        );
        $moved = $this->seen(['run-'.$run => '2026-07-01']);
        self::assertArrayNotHasKey('runs', $moved->weeks[0]->sums);
        self::assertSame($taken, $moved->weeks[2]->sums['runs'] ?? null);
        self::assertSame($weeks[5]->usual, $moved->weeks[5]->usual);
        self::assertSame($weeks[0]->usual, $moved->plain[0]->usual);
        $due = $this->seen(['due-2026-06-29' => '2026-07-20']);
        self::assertSame($weeks[2]->sums['vendors'] ?? null, $due->weeks[5]->sums['vendors'] ?? null);
        // posted, it is in the bank and not planned any more
        $this->postRun($run);
        $after = $this->seen();
        self::assertSame($opening + $taken, $after->opening);
        self::assertArrayNotHasKey('runs', $after->weeks[0]->sums);
    }

    public function testRecurringAndOrdersByTheirTerms(): void
    {
        $id = $this->invoice(Side::Payables, '40.00', ['document_date' => '2026-06-01', 'terms' => 'N30']);
        self::get(KeepRecurring::class)->begin($this->clerk, Side::Payables, $id, [
            'name' => 'rent',
            'every' => 'month',
            'first_on' => '2026-06-20',
        ]);
        self::get(KeepOrder::class)->enter(
            $this->clerk,
            self::get(OrderReader::class)->read($this->clerk, [
                'party' => 'V-1',
                'ordered_on' => '2026-06-12',
                'wanted_by' => '2026-06-18',
                'lines' => [
                    ['account' => '1400', 'text' => 'oak', 'quantity' => '10', 'unit' => 'MTR', 'price' => '12.50'],
                ],
            ]),
            null,
        );
        $weeks = $this->seen([], 13)->weeks;
        // 20 June and 30 days: 20 July; then 19 August; the order 18 June and 30 days: 18 July
        self::assertSame(-4000, $weeks[5]->sums['recurring_out'] ?? null);
        self::assertSame(-4000, $weeks[9]->sums['recurring_out'] ?? null);
        self::assertSame(-12500, $weeks[4]->sums['orders'] ?? null);
        self::assertSame(-4000, $weeks[2]->sums['vendors'] ?? null);
    }

    /** What nobody can value is named, and counts for nothing. */
    public function testAnOrderWithoutARateIsNamed(): void
    {
        // there was a rate when it was ordered
        $this->db()->executeStatement(
            'INSERT INTO exchange_rate (company_id, valid_on, from_currency, to_currency, rate) '.
                "VALUES (?, '2026-06-01', 'CHF', 'USD', 1.1)",
            [$this->clerk->companyId],
        );
        self::get(KeepOrder::class)->enter(
            $this->clerk,
            self::get(OrderReader::class)->read($this->clerk, [
                'party' => 'V-1',
                'ordered_on' => '2026-06-12',
                'currency' => 'CHF',
                'lines' => [
                    ['account' => '1400', 'text' => 'oak', 'quantity' => '1', 'unit' => 'MTR', 'price' => '9.00'],
                ],
            ]),
            null,
        );
        $this->db()->executeStatement('DELETE FROM exchange_rate');
        $number = (string) $this->db()->fetchOne('SELECT number FROM purchase_order');
        $seen = $this->seen();
        self::assertSame([$number], $seen->unknown);
        self::assertSame($seen->opening, $seen->weeks[5]->usual);
        $this->as('controller');
        self::assertStringContainsString(
            'no rate or no amount is known: '.$number,
            $this->page('/TEST/bank/outlook')->filter('[role=status]')->text(),
        );
    }

    /** 1,000,000.00 at 1.2345678: by a rate of four places it would be 32.20 too much. */
    public function testARunInAnotherCurrencyIsWorthWhatItsItemsAreBookedAt(): void
    {
        $this->db()->executeStatement(
            'INSERT INTO exchange_rate (company_id, valid_on, from_currency, to_currency, rate) '.
                "VALUES (?, '2026-05-01', 'EUR', 'USD', 1.2345678)",
            [$this->clerk->companyId],
        );
        $this->invoice(Side::Payables, '1000000.00', [
            'document_date' => '2026-05-01',
            'terms' => 'N30',
            'currency' => 'EUR',
        ]);
        $this->db()->executeStatement("UPDATE document SET approval = 'none'");
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => self::DAY, 'currency' => 'EUR']);
        self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        self::assertSame(-123456780, $this->seen()->weeks[0]->sums['runs'] ?? null);
        $this->as('controller');
        self::assertStringContainsString('1,234,567.80', $this->page('/TEST')->text(), 'on Today too');
    }

    public function testTheScreenMovesAPaymentAndOpensAFigure(): void
    {
        $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-05-30', 'terms' => 'N30']);
        $this->as('controller');
        $page = $this->page('/TEST/bank/outlook?weeks=6&move[due-2026-06-29]=2026-07-20');
        self::assertSame('2026-07-20', $page->filter('[data-key="due-2026-06-29"]')->attr('data-day'));
        self::assertStringContainsString('lowest likely balance', $page->filter('[role=status]')->text());
        $this->browser->click($page->filter('table a.figure')->last()->link());
        self::assertStringContainsString(
            'Fenwick Timber',
            $this->browser->getCrawler()->filter('#behind + table')->text(),
        );
        foreach (
            [
                'move[due-2026-06-29]=2026-01-01' => 'A payment moves to a day from 15 Jun 2026 through 26 Jul 2026.',
                'move[due-2026-06-29]=2026-02-31' => '2026-02-31',
            ] as $query => $says
        ) {
            self::assertStringContainsString(
                $says,
                $this->page('/TEST/bank/outlook?weeks=6&'.$query)
                    ->filter('[role=alert]')
                    ->text(),
            );
        }
        $this->page('/TEST/bank/outlook?kind=customers&week=99');
        self::assertResponseIsSuccessful();
        $this->browser->request('GET', '/TEST/bank/outlook?weeks=6&format=csv');
        $rows = explode("\n", trim((string) $this->browser->getInternalResponse()->getContent()));
        self::assertCount(7, $rows);
        self::assertStringContainsString('-100.00', $rows[3]);
    }
}
