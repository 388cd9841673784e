<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Money\ClaimKind;
use Nelbix\App\Money\ClaimRequest;
use Nelbix\App\Money\MakeClaim;
use Nelbix\App\Receivables\ChargesQuery;
use Nelbix\App\Receivables\CommissionQuery;
use Nelbix\App\Setup\KeepSettings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;

/** Finance charges and commissions. Source: rules.md, Finance charges, Commission. */
final class ChargesTest extends ScreenCase
{
    private function rate(string $rate, int $grace = 0, int $smallest = 0): void
    {
        $this->db()->executeStatement(
            'UPDATE party SET charge_rate = ?, charge_grace_days = ?, charge_smallest = ? WHERE company_id = ? AND code = ?',
            [$rate, $grace, $smallest, $this->clerk->companyId, 'C-1'],
        );
    }

    /** @return list<int> amounts by item, of what is proposed */
    private function proposed(string $through): array
    {
        $found = [];
        foreach (self::get(ChargesQuery::class)->of($this->clerk->companyId, Day::of($through)) as $c) {
            array_push($found, ...array_column($c['lines'], 'amount'));
        }

        return $found;
    }

    /** @param array<string, mixed> $more */
    private function send(string $through, array $more = []): string
    {
        $page = '/TEST/receivables/charges';

        return $this->post($page.'?through='.$through, $page, [
            'through' => $through,
            'charges' => array_column(
                self::get(ChargesQuery::class)->of($this->clerk->companyId, Day::of($through)),
                'key',
            ),
            ...$more,
        ])
            ->filter('.said-done, .said-refused')
            ->text();
    }

    public function testTheWorkedFigureIsProposedPostedAndNotChargedTwice(): void
    {
        $this->rate('18');
        // due on 1 May: 1,200.00 for 45 days at 18 % is 26.63; with 700.00 paid on day 20 it is 18.00
        $item = $this->itemOf(
            $this->invoice(Side::Receivables, '1200.00', ['document_date' => '2026-04-01', 'terms' => 'N30']),
        );
        self::assertSame([2663], $this->proposed(self::DAY));
        $this->money(Side::Receivables, 70000, [new PlacementRequest($item, 70000)], [], '2026-05-21');
        self::assertSame([1800], $this->proposed(self::DAY));
        self::assertSame([], $this->proposed('2026-05-01'), 'not on the day it is due');
        self::assertStringContainsString('Posted 1 finance charge.', $this->send(self::DAY));
        self::assertSame(-1800, $this->balance('4700'), 'finance charge income');
        // the rate of then stands in the why, whatever the customer's is by now
        $this->rate('9');
        $charge = (int) $this->db()->fetchOne("SELECT id FROM document WHERE kind = 'finance_charge'");
        $why = $this->page('/TEST/receivables/why/document/'.$charge)->text();
        foreach (
            [
                '1,200.00 for 20 days after 1 May 2026 through 21 May 2026, at 18 % a year',
                '500.00 for 25 days after 21 May 2026 through 15 Jun 2026, at 18 % a year',
            ] as $span
        ) {
            self::assertStringContainsString($span, $why);
        }
        $this->rate('18');
        self::assertSame(51800, $this->balance('1200'));
        self::assertSame([], $this->proposed(self::DAY), 'not twice');
        // 500.00 for the 10 days after, and the charge itself bears none
        self::assertSame([247], $this->proposed('2026-06-25'));
        self::assertStringContainsString('is still to come', $this->send('2026-06-25'));
        // reversed, it is proposed again
        self::get(ReverseDocument::class)->reverse($this->clerk, $charge, 'they called');
        self::assertSame([1800], $this->proposed(self::DAY));
        self::assertStringContainsString('Say why it is waived', $this->send(self::DAY, ['_action' => 'waive']));
        self::assertStringContainsString(
            'Waived 1 charge',
            $this->send(self::DAY, ['_action' => 'waive', 'why' => 'good friends']),
        );
        self::assertSame([], $this->proposed(self::DAY));
    }

    /** 1,200.00 due on 1 May, a receipt of 11 May that bounced on 31 May: 45 days, or the 10 before and the 15 after it. */
    public function testABouncedReceiptNeverWasMoney(): void
    {
        $this->rate('18');
        $item = $this->itemOf(
            $this->invoice(Side::Receivables, '1200.00', ['document_date' => '2026-04-01', 'terms' => 'N30']),
        );
        $receipt = $this->money(Side::Receivables, 120000, [new PlacementRequest($item, 120000)], [], '2026-05-11');
        self::assertSame([592], $this->proposed(self::DAY), 'while it counts as money: 10 days');
        self::get(ReverseDocument::class)->event(
            $this->clerk,
            $receipt,
            Day::of('2026-05-31'),
            HowTakenBack::Bounced,
            'no funds',
        );
        self::assertSame([2663], $this->proposed(self::DAY));
        self::get(KeepSettings::class)->keep($this->clerk, ['bounced_interest' => 'from_bounce']);
        self::assertSame([1479], $this->proposed(self::DAY));
    }

    public function testGraceSmallestAndClaims(): void
    {
        $item = $this->itemOf(
            $this->invoice(Side::Receivables, '1200.00', ['document_date' => '2026-04-01', 'terms' => 'N30']),
        );
        self::assertSame([], $this->proposed(self::DAY), 'no rate, no charge');
        $this->rate('18', 45);
        self::assertSame([], $this->proposed(self::DAY), 'day 45 is within the grace');
        self::assertSame([2722], $this->proposed('2026-06-16'), 'after it all days count');
        $this->rate('18', 0, 2664);
        self::assertSame([], $this->proposed(self::DAY), 'a cent below the smallest');
        $this->rate('18', 0, 2663);
        self::assertSame([2663], $this->proposed(self::DAY));
        // what was a claim from the day it was due is charged nothing
        self::get(MakeClaim::class)->make(
            $this->clerk,
            new ClaimRequest($item, 60000, ClaimKind::Disputed, 'scratched'),
            Day::of('2026-05-01'),
        );
        $this->rate('18');
        self::assertSame([1332], $this->proposed(self::DAY));
    }

    public function testAPageThatIsOldChargesNothing(): void
    {
        $this->rate('18');
        $item = $this->itemOf(
            $this->invoice(Side::Receivables, '1200.00', ['document_date' => '2026-04-01', 'terms' => 'N30']),
        );
        $seen = array_column(self::get(ChargesQuery::class)->of($this->clerk->companyId, Day::of(self::DAY)), 'key');
        $this->money(Side::Receivables, 100, [new PlacementRequest($item, 100)], [], '2026-05-21');
        self::assertStringContainsString(
            'changed since this page was loaded',
            $this->send(self::DAY, ['charges' => $seen]),
        );
        self::assertStringContainsString('Nothing is picked', $this->send(self::DAY, ['charges' => []]));
        self::assertSame(0, $this->balance('4700'));
    }

    /** Interest that is entered by hand earns no discount, whatever the customer's terms. */
    public function testAFinanceChargeByHandEarnsNoDiscount(): void
    {
        $of = fn (string $kind, string $account): int => $this->invoice(Side::Receivables, '100.00', [
            'kind' => $kind,
            'terms' => '2-10-N30',
            'lines' => [['account' => $account, 'amount' => '100.00']],
        ]);
        $steps = fn (int $document): int => (int) $this->db()->fetchOne(
            'SELECT COUNT(*) FROM item_discount x JOIN open_item i ON i.id = x.item_id WHERE i.document_id = ?',
            [$document],
        );
        self::assertSame([0, 1], [$steps($of('finance_charge', '4700')), $steps($of('invoice', '4000'))]);
    }

    public function testCommissionOnWhatIsPaidLessDiscountsAndCredits(): void
    {
        $sold = ['document_date' => '2026-06-01', 'salesperson' => 'Mara Quist', 'commission_percent' => '5'];
        $taxed = ['lines' => [['account' => '4000', 'amount' => '1000.00', 'tax_code' => 'S8']]];
        $one = $this->itemOf($this->invoice(Side::Receivables, '', [...$sold, ...$taxed, 'terms' => 'N30']));
        $commissions = fn (string $from = '2026-06-01'): array => array_column(
            self::get(CommissionQuery::class)->of($this->clerk->companyId, Day::of($from), Day::of('2026-06-30')),
            'commission',
        );
        self::assertSame([], $commissions());
        // rules.md: net 1,000.00, tax 80.00, 5 %: 540.00 received is 25.00
        $this->money(Side::Receivables, 54000, [new PlacementRequest($one, 54000)], [], '2026-06-10');
        self::assertSame([2500], $commissions());
        // a discount is not received: 980.00 of 1,000.00 without tax earns 49.00
        $two = $this->itemOf($this->invoice(Side::Receivables, '1000.00', $sold));
        $this->money(
            Side::Receivables,
            98000,
            [new PlacementRequest($two, 100000)],
            [new AdjustmentRequest($two, AdjustmentKind::Discount, -2000)],
            '2026-06-11',
        );
        self::assertSame([2500, 4900], $commissions());
        self::assertSame([], $commissions('2026-06-12'));
        $settlement = (int) $this->db()->fetchOne('SELECT MAX(id) FROM settlement');
        self::get(UndoSettlement::class)->undo($this->clerk, $settlement, Day::of('2026-06-14'));
        self::assertSame([-4900], $commissions('2026-06-12'), 'undone with the settlement');
        $page = $this->page('/TEST/receivables/commissions?from=2026-06-01&through=2026-06-30');
        self::assertStringContainsString('25.00', $page->filter('tfoot')->text());
    }

    /** rules.md: 540.00 in April: 25.00; a credit of 200.00 net without tax in June: −0.45 in June, and April stays as it was. */
    public function testWhatWasEarnedStaysWhenACreditNoteComesLater(): void
    {
        $sold = [
            'document_date' => '2026-04-01',
            'salesperson' => 'Mara Quist',
            'commission_percent' => '5',
            'terms' => 'N30',
            'lines' => [['account' => '4000', 'amount' => '1000.00', 'tax_code' => 'S8']],
        ];
        $invoice = $this->invoice(Side::Receivables, '', $sold);
        $this->money(
            Side::Receivables,
            54000,
            [new PlacementRequest($this->itemOf($invoice), 54000)],
            [],
            '2026-04-10',
        );
        $in = fn (string $from, string $to): array => array_column(
            self::get(CommissionQuery::class)->of($this->clerk->companyId, Day::of($from), Day::of($to)),
            'commission',
        );
        $number = $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$invoice]);
        $credit = $this->invoice(Side::Receivables, '200.00', [
            'kind' => 'credit_note',
            'document_date' => '2026-06-10',
            'against' => $number,
        ]);
        self::assertSame(
            [[2500], [], [-45]],
            [$in('2026-04-01', '2026-04-30'), $in('2026-05-01', '2026-05-31'), $in('2026-06-01', '2026-06-30')],
        );
        $settlement = $this->db()->fetchOne(
            'SELECT MAX(id) FROM settlement WHERE undone_on IS NULL AND document_id = ?',
            [$credit],
        );
        if (false !== $settlement && null !== $settlement) {
            self::get(UndoSettlement::class)->undo($this->clerk, (int) $settlement, Day::of('2026-06-11'));
        }
        self::get(ReverseDocument::class)->reverse($this->clerk, $credit, 'not agreed');
        self::assertSame([-45, 45], $in('2026-06-01', '2026-06-30'), 'taken back as an event of its own');
        self::assertSame([2500], $in('2026-04-01', '2026-04-30'));
    }
}
