<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\SettleItems;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Close\Proving\FiguresQuery;
use Nelbix\App\Close\Seal\SealPosted;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Codes\PaymentTermRecord;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;
use Symfony\Component\Process\Process;

/** History, close report and a controller's figures. The figures are worked by hand. */
final class ProvingTest extends ScreenCase
{
    public function testDaysToPayAndDiscountsTakenAndLapsed(): void
    {
        // 2/10 n/30: 1,000.00 of 1 May paid on 9 May with its discount; 500.00 of 1 May paid on 10 June, 10 days over, its 10.00 lapsed
        $early = $this->itemOf($this->invoice(Side::Payables, '1000.00', ['document_date' => '2026-05-01']));
        $late = $this->itemOf($this->invoice(Side::Payables, '500.00', ['document_date' => '2026-05-01']));
        $this->money(
            Side::Payables,
            98000,
            [new PlacementRequest($early, 100000)],
            [new AdjustmentRequest($early, AdjustmentKind::Discount, -2000)],
            '2026-05-09',
        );
        $this->money(Side::Payables, 50000, [new PlacementRequest($late, 50000)], [], '2026-06-10');
        $figures = self::get(FiguresQuery::class);
        [$from, $to] = [Day::of('2026-01-01'), Day::of(self::DAY)];
        $days = $figures->daysToPay($this->clerk->companyId, 'payables', $from, $to);
        // (1,000 × 8 + 500 × 40) / 1,500 = 18.7 days; (500 × 10) / 1,500 = 3.3 over
        self::assertSame(
            [[150000, '18.7', '3.3', 2]],
            array_map(static fn (array $r): array => [$r['settled'], $r['days'], $r['late'], $r['documents']], $days),
        );
        $discounts = $figures->discounts($this->clerk->companyId, 'payables', $from, $to);
        self::assertSame(
            [[2000, 1000]],
            array_map(static fn (array $r): array => [$r['taken'], $r['missed']], $discounts),
        );
        $this->invoice(Side::Payables, '500.00', [
            'document_date' => '2026-05-02',
            'look_alike_reason' => 'a second load',
        ]);
        $this->as('payables');
        $page = $this->page('/TEST/payables/figures?from=2026-01-01');
        self::assertStringContainsString('18.7 days', $page->filter('.foot')->text());
        $this->browser->click($page->selectLink('Fenwick Timber')->first()->link());
        $behind = $this->browser->getCrawler();
        self::assertSame(
            ['20.00', '·'],
            [
                trim($behind->filter('#documents + table tbody tr')->last()->filter('td')->eq(5)->text()),
                trim($behind->filter('#documents + table tbody tr')->first()->filter('td')->eq(5)->text()),
            ],
        );
        $this->browser->request('GET', '/TEST/payables/figures?format=csv');
        self::assertSame(200, $this->browser->getResponse()->getStatusCode());
        $this->browser->request('GET', '/TEST/receivables/figures');
        self::assertSame(403, $this->browser->getResponse()->getStatusCode());
    }

    /** Every lapse falls into exactly one month, the steps one after the other, and what a credit note took is no lapse and no payment. */
    public function testALapseFallsIntoOneMonth(): void
    {
        $terms = self::get(EntityManagerInterface::class)->getRepository(PaymentTermRecord::class);
        $term = $terms->findOneBy(['code' => '2-10-N30']) ?? self::fail();
        $term->spec = ['net' => '30', 'discounts' => '3@10 2@20', 'grace_days' => '1'];
        self::get(EntityManagerInterface::class)->flush();
        self::get(CodeBook::class)->reset();
        // 3 % through 30 April, 2 % through 10 May, one day of grace: they lapse on 2 May and 12 May
        $this->invoice(Side::Payables, '1000.00', ['document_date' => '2026-04-20']);
        $credited = $this->itemOf($this->invoice(Side::Payables, '600.00', ['document_date' => '2026-04-21']));
        $credit = $this->itemOf(
            $this->invoice(Side::Payables, '600.00', ['kind' => 'credit_note', 'document_date' => '2026-06-01']),
        );
        self::get(SettleItems::class)->settle(
            $this->clerk,
            new SettlementRequest(
                Side::Payables,
                [new PlacementRequest($credited, 60000), new PlacementRequest($credit, -60000)],
                [],
                Day::of('2026-06-01'),
            ),
        );
        $figures = self::get(FiguresQuery::class);
        $missed = fn (string $from, string $to): int => array_sum(
            array_column(
                $figures->discounts($this->clerk->companyId, 'payables', Day::of($from), Day::of($to)),
                'missed',
            ),
        );
        self::assertSame(
            [0, 3000, 1000, 0, 2000],
            [
                $missed('2026-04-01', '2026-05-01'),
                $missed('2026-05-01', '2026-05-31'),
                $missed('2026-05-02', '2026-05-02'),
                $missed('2026-05-03', '2026-05-11'),
                $missed('2026-05-12', '2026-06-15'),
            ],
        );
        self::assertSame(
            [],
            $figures->daysToPay($this->clerk->companyId, 'payables', Day::of('2026-01-01'), Day::of(self::DAY)),
            'a credit note is no payment',
        );
    }

    public function testTheHistoryIsFilteredAndStandsBesideTheSeal(): void
    {
        $id = $this->invoice(Side::Payables, '70.00');
        $number = (string) $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$id]);
        $this->as('auditor');
        self::assertStringContainsString(
            'Nothing is sealed yet',
            $this->page('/TEST/close/history')->filter('.foot')->text(),
        );
        while (self::get(SealPosted::class)->do()) {
            continue;
        }
        $page = $this->page('/TEST/close/history?what=document&text='.$number);
        self::assertStringContainsString($number, $page->filter('tbody')->text());
        $chain = (string) $this->db()->fetchOne('SELECT LOWER(HEX(chain)) FROM seal_head WHERE company_id = ?', [
            $this->clerk->companyId,
        ]);
        self::assertStringContainsString($chain, $page->filter('.foot')->text());
        self::assertCount(0, $this->page('/TEST/close/history?who=nobody')->filter('tbody tr'));
        self::assertCount(0, $this->page('/TEST/close/history?to=2020-01-01')->filter('tbody tr'));
        self::assertCount(1, $this->page('/TEST/close/history?from=x')->filter('[role=alert]'));
        $this->browser->request('GET', '/TEST/close/history?format=csv');
        self::assertStringContainsString($number, (string) $this->browser->getInternalResponse()->getContent());
        $period = (int) $this->db()->fetchOne(
            "SELECT id FROM period WHERE company_id = ? AND first_day = '2026-05-01'",
            [$this->clerk->companyId],
        );
        $this->browser->request('GET', '/TEST/close/report/'.$period);
        $pdf = new Process(['pdftotext', '-layout', '-', '-']);
        $pdf->setInput((string) $this->browser->getResponse()->getContent());
        $text = $pdf->mustRun()->getOutput();
        foreach (['Close of 2026/05', $chain, 'Nothing was signed off in this period'] as $part) {
            self::assertStringContainsString($part, $text);
        }
        $this->as('payables');
        $this->browser->request('GET', '/TEST/close/history');
        self::assertSame(403, $this->browser->getResponse()->getStatusCode());
    }

    /** A is paid by P together with B, which a credit note lowered: from A the trail goes on to B and the credit note, and back. */
    public function testTheTrailGoesOnBothWaysAndFromAnEntry(): void
    {
        $a = $this->invoice(Side::Payables, '100.00');
        $b = $this->invoice(Side::Payables, '200.00');
        $credit = $this->invoice(Side::Payables, '50.00', ['kind' => 'credit_note']);
        $this->settle($b, $credit, 5000);
        $paid = $this->money(Side::Payables, 25000, [
            new PlacementRequest($this->itemOf($a), 10000),
            new PlacementRequest($this->itemOf($b), 15000),
        ]);
        $this->as('controller');
        $links = fn (string $page): array => array_values(
            array_unique(
                $this->page($page)->filter('svg.trail a')->each(static fn ($l): string => (string) $l->attr('href')),
            ),
        );
        $all = array_map(static fn (int $id): string => '/TEST/payables/document/'.$id, [$a, $b, $credit, $paid]);
        foreach ([$a, $credit] as $from) {
            self::assertSame(
                [],
                array_diff($all, $links('/TEST/payables/document/'.$from.'/trail')),
                'from '.$from,
            );
        }
        $entry = (string) $this->db()->fetchOne(
            "SELECT number FROM journal_entry WHERE source_kind = 'document' AND source_id = ?",
            [$paid],
        );
        $ofEntry = $links('/TEST/close/entry/'.$entry);
        self::assertSame([], array_diff($all, $ofEntry));
        self::assertContains('/TEST/close/entry/'.$entry, $ofEntry, 'a ribbon leads to the entry that settled');
        // what was taken of B with a discount has two entries, and counts once: its band ends with the payment
        $c = $this->invoice(Side::Payables, '1000.00', ['document_date' => '2026-06-12']);
        $discounted = $this->money(
            Side::Payables,
            98000,
            [new PlacementRequest($this->itemOf($c), 100000)],
            [new AdjustmentRequest($this->itemOf($c), AdjustmentKind::Discount, -2000)],
        );
        $path = (string) $this->page('/TEST/payables/document/'.$discounted.'/trail')
            ->filter('svg.trail .owed')
            ->attr('d');
        $paid = (float) $this->browser->getCrawler()->filter('svg.trail circle.own')->attr('cx');
        preg_match_all('/[ML](-?[\d.]+) /', $path, $x);
        self::assertLessThanOrEqual($paid + 0.1, max(0, ...array_map('floatval', $x[1])));
        self::assertNotSame([], $x[1]);
        // who does not see the other side does not see it here
        $this->db()->update('document', ['side' => 'receivables'], ['id' => $credit]);
        $this->as('payables');
        self::assertNotContains($all[2], $links('/TEST/payables/document/'.$b));
        self::assertNotContains('/TEST/receivables/document/'.$credit, $links('/TEST/payables/document/'.$b));
        $this->db()->update('document', ['side' => 'payables'], ['id' => $credit]);
    }

    private function settle(int $owed, int $credit, int $amount): void
    {
        self::get(SettleItems::class)->settle(
            $this->clerk,
            new SettlementRequest(
                Side::Payables,
                [
                    new PlacementRequest($this->itemOf($owed), $amount),
                    new PlacementRequest($this->itemOf($credit), -$amount),
                ],
                [],
                Day::of(self::DAY),
            ),
        );
    }
}
