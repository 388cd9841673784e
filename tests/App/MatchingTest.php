<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\MayPay;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\KeepOrder;
use Nelbix\App\Goods\OrderReader;
use Nelbix\App\Goods\RecordDelivery;
use Nelbix\App\Goods\ReverseDelivery;
use Nelbix\App\Invoices\DecideMatch;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\MatchDecision;
use Nelbix\App\Invoices\MatchQuery;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Invoices\PutRight;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/** Invoices matched with what was delivered. Source: rules.md, Matching. */
final class MatchingTest extends AppCase
{
    /** @return list<int> the ids of its lines */
    private function delivered(string $quantity = '10', string $price = '12.50', string $day = '2026-06-10'): array
    {
        $raw = [
            'party' => 'V-1',
            'delivered_on' => $day,
            'lines' => [['account' => '1400', 'quantity' => $quantity, 'price' => $price, 'text' => 'oak']],
        ];
        $id = self::get(RecordDelivery::class)->record(
            $this->clerk,
            self::get(DeliveryReader::class)->read($this->clerk, $raw),
        );

        return array_map(
            'intval',
            $this->db()->fetchFirstColumn('SELECT id FROM delivery_line WHERE delivery_id = ?', [$id]),
        );
    }

    /** @param array<string, mixed> $more */
    private function invoiced(int $line, string $amount, array $more = []): int
    {
        $raw = [
            'party' => 'V-1',
            'number' => 'M-'.random_int(1, 999_999),
            'document_date' => self::DAY,
            'look_alike_reason' => 'another one',
            'lines' => [['account' => '1400', 'amount' => $amount, 'text' => 'oak', 'delivery_line' => (string) $line]],
            ...$more,
        ];

        return self::get(PostInvoice::class)->post(
            $this->clerk,
            self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, $raw),
        );
    }

    /** @return array{int, int} ledger and items of received-not-invoiced, in its normal sign */
    private function tie(string $day): array
    {
        foreach (self::get(TieOutQuery::class)->of($this->clerk->companyId, Day::of($day)) as $row) {
            if (AccountRole::ReceivedNotInvoiced === $row['role']) {
                self::assertSame([], $row['tie']->explainedBy, $day);

                return [$row['tie']->ledger, $row['tie']->items];
            }
        }
        self::fail('no such control account');
    }

    public function testTheWorkedExample(): void
    {
        [$line] = $this->delivered();
        // rules.md: 8 of 10 received at 12.50, 8 invoiced at 12.90; the tax of it is the core's
        $this->invoiced($line, '8 × 12.90');
        self::assertSame([12500, -2500, 320, -10320], array_map($this->balance(...), ['1400', '2110', '5800', '2100']));
        self::assertSame([[12500, 12500], [2500, 2500]], [$this->tie('2026-06-14'), $this->tie(self::DAY)]);
        // the last two take what is left
        $this->invoiced($line, '2 × 12.50');
        self::assertSame([0, 320], [$this->balance('2110'), $this->balance('5800')]);
        self::assertSame([0, 0], $this->tie(self::DAY));
    }

    public function testAVarianceMayGoBackToTheLine(): void
    {
        self::get(Settings::class)->keep($this->clerk->companyId, ['price_variance' => 'line']);
        [$line] = $this->delivered();
        $this->invoiced($line, '10 × 12');
        self::assertSame([12000, 0, -12000], array_map($this->balance(...), ['1400', '2110', '2100']));
    }

    public function testMoreThanIsLeftIsRefused(): void
    {
        [$line] = $this->delivered();
        $this->invoiced($line, '8 × 12.50');
        self::assertSame(['lines.0.amount'], self::refusedFields(fn () => $this->invoiced($line, '3 × 12.50')));
        // twice in one invoice, together more than is left
        $twice = ['account' => '1400', 'amount' => '1.5 × 12.50', 'text' => 'oak', 'delivery_line' => (string) $line];
        self::assertSame(
            ['lines.1.amount'],
            self::refusedFields(fn () => $this->invoiced($line, '', ['lines' => [$twice, $twice]])),
        );
        // an amount alone does not say how much is matched
        self::assertSame(['lines.0.amount'], self::refusedFields(fn () => $this->invoiced($line, '25.00')));
        // goods that came later than the invoice is posted
        self::assertSame(
            ['posting_date'],
            self::refusedFields(fn () => $this->invoiced($line, '2 × 12.50', ['posting_date' => '2026-06-09'])),
        );
        self::assertSame(
            ['lines.0.amount'],
            self::refusedFields(fn () => $this->invoiced($line, '2 × 12.50', ['kind' => 'credit_note'])),
        );
        self::assertSame(['lines.0.amount'], self::refusedFields(fn () => $this->invoiced($line + 1000, '2 × 12.50')));
    }

    public function testAnInvoiceGivesBackWhatItTook(): void
    {
        [$line] = $this->delivered();
        $id = $this->invoiced($line, '10 × 12.90');
        $delivery = (int) $this->db()->fetchOne('SELECT delivery_id FROM delivery_line WHERE id = ?', [$line]);
        $number = (string) $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$id]);
        try {
            self::get(ReverseDelivery::class)->reverse($this->clerk, $delivery, Day::of(self::DAY), 'wrong');
            self::fail('a delivery that is invoiced stands');
        } catch (Refused $e) {
            self::assertStringContainsString("something is in $number; take that back first", $e->getMessage());
        }
        self::get(ReverseDocument::class)->reverse($this->clerk, $id, 'of another company');
        self::assertSame([12500, -12500, 0, 0], array_map($this->balance(...), ['1400', '2110', '5800', '2100']));
        self::assertSame([12500, 12500], $this->tie(self::DAY));
        // and it can be invoiced again, but not before it was given back
        self::assertSame(
            ['posting_date'],
            self::refusedFields(fn () => $this->invoiced($line, '10 × 12.50', ['posting_date' => '2026-06-12'])),
        );
        $again = $this->invoiced($line, '10 × 12.50');
        self::assertSame(0, $this->balance('2110'));
        self::get(ReverseDocument::class)->reverse($this->clerk, $again, 'once more');
        self::get(ReverseDelivery::class)->reverse($this->clerk, $delivery, Day::of(self::DAY), 'wrong');
        self::assertSame([0, 0], [$this->balance('1400'), $this->balance('2110')]);
    }

    public function testItIsPutRightWithTheSameGoods(): void
    {
        [$line] = $this->delivered();
        $id = $this->invoiced($line, '10 × 12.90');
        $raw = [
            'party' => 'V-1',
            'number' => 'M-right',
            'document_date' => self::DAY,
            'look_alike_reason' => 'it is put right',
            '_put_right' => (string) $id,
            'lines' => [
                ['account' => '1400', 'amount' => '10 × 12.60', 'text' => 'oak', 'delivery_line' => (string) $line],
            ],
        ];
        $input = self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, $raw);
        self::get(PutRight::class)->putRight($this->clerk, $id, $input, 'the price');
        self::assertSame([12500, 0, 100, -12600], array_map($this->balance(...), ['1400', '2110', '5800', '2100']));
        self::assertSame([0, 0], $this->tie(self::DAY));
    }

    /**
     * Ordered by the buyer, received, and not invoiced.
     *
     * @return int the id of the delivery's line
     */
    private function ordered(string $quantity = '10', string $price = '12.50'): int
    {
        $order = self::get(KeepOrder::class)->enter(
            $this->buyer,
            self::get(OrderReader::class)->read($this->buyer, [
                'party' => 'V-1',
                'ordered_on' => '2026-06-01',
                'lines' => [['account' => '1400', 'text' => 'oak', 'quantity' => $quantity, 'price' => $price]],
            ]),
        );
        $line = (int) $this->db()->fetchOne('SELECT id FROM purchase_order_line WHERE order_id = ?', [$order]);
        $id = self::get(RecordDelivery::class)->record(
            $this->clerk,
            self::get(DeliveryReader::class)->read($this->clerk, [
                'delivered_on' => '2026-06-10',
                'lines' => [['order_line' => (string) $line, 'quantity' => $quantity]],
            ]),
        );

        return (int) $this->db()->fetchOne('SELECT id FROM delivery_line WHERE delivery_id = ?', [$id]);
    }

    private function held(int $document): ?string
    {
        $held = $this->db()->fetchOne('SELECT held_reason FROM document WHERE id = ?', [$document]);

        return \is_string($held) ? $held : null;
    }

    private function decide(
        Actor $actor,
        int $document,
        MatchDecision $what,
        string $why = '',
        ?string $seen = null,
    ): ?Document {
        return self::get(DecideMatch::class)->decide($actor, $document, $what, $why, $actor === $this->approver, $seen);
    }

    public function testInsideTheBoundsItPostsAndOutsideItIsHeld(): void
    {
        $line = $this->ordered();
        // 2 % of 12.50 is 0.25
        self::assertNull($this->held($this->invoiced($line, '2 × 12.75')));
        $id = $this->invoiced($line, '2 × 12.76');
        self::assertSame('oak: 12.76 each, agreed 12.50, 2.1 % more', $this->held($id));
        // 3 × 0.25 is inside; with freight of 9.26 all of it is 10.01 over, which is more than 10.00
        $freight = ['account' => '5000', 'amount' => '9.26', 'text' => 'freight'];
        $goods = ['account' => '1400', 'amount' => '3 × 12.75', 'text' => 'oak', 'delivery_line' => (string) $line];
        $over = $this->invoiced($line, '', ['lines' => [$goods, $freight]]);
        self::assertSame('all in all 10.01 USD more than agreed', $this->held($over));
        $inside = $this->invoiced($line, '', ['lines' => [$goods, ['amount' => '9.25'] + $freight]]);
        self::assertNull($this->held($inside));
    }

    public function testWhatNobodyOrderedIsHeld(): void
    {
        [$line] = $this->delivered();
        self::assertSame('oak: nobody ordered it', $this->held($this->invoiced($line, '1 × 12.50')));
        self::get(Settings::class)->keep($this->clerk->companyId, ['match_not_ordered' => 'posts']);
        self::assertNull($this->held($this->invoiced($line, '1 × 12.50')));
    }

    public function testAnInvoiceThatNamesNoGoodsIsHeldWhereTheCompanySaysSo(): void
    {
        $line = $this->ordered();
        $plain = fn (): int => $this->invoice(Side::Payables, '125.00', ['document_date' => self::DAY]);
        self::assertNull($this->held($plain()));
        self::get(Settings::class)->keep($this->clerk->companyId, ['match_none' => 'held']);
        $id = $this->invoice(Side::Payables, '130.00', [
            'document_date' => self::DAY,
            'look_alike_reason' => 'another',
        ]);
        self::assertSame('it names no goods, though 1 line of this vendor could be what it invoices', $this->held($id));
        self::assertSame([''], self::refusedFields(fn () => $this->decide($this->buyer, $id, MatchDecision::Accepted)));
        $this->decide($this->approver, $id, MatchDecision::Accepted, 'rent');
        self::assertNull($this->held($id));
        $this->invoiced($line, '10 × 12.50');
        self::assertNull($this->held($this->invoice(Side::Payables, '140.00', ['look_alike_reason' => 'another'])));
    }

    public function testAVendorsOwnBoundsHold(): void
    {
        $this->db()->executeStatement("UPDATE party SET match_price_percent = 10 WHERE code = 'V-1'");
        self::assertNull($this->held($this->invoiced($this->ordered(), '5 × 13.75')));
        $this->db()->executeStatement("UPDATE party SET match_price_amount = 1 WHERE code = 'V-1'");
        self::assertNotNull($this->held($this->invoiced($this->ordered(), '1 × 13.51')));
    }

    public function testWhoeverOrderedDecidesAndNobodyElse(): void
    {
        $line = $this->ordered();
        $id = $this->invoiced($line, '5 × 13');
        $seen = MatchQuery::digest(self::get(MatchQuery::class)->waiting($id));
        $accept = MatchDecision::Accepted;
        self::assertSame(
            [''],
            self::refusedFields(fn () => $this->decide($this->clerk, $id, $accept)),
            'who entered it',
        );
        self::assertSame(
            [''],
            self::refusedFields(fn () => $this->decide($this->receiver, $id, $accept)),
            'who did not order',
        );
        self::assertSame(
            [''],
            self::refusedFields(fn () => $this->decide($this->buyer, $id, $accept, '', 'of an old page')),
        );
        // it is not released by the button for what a person holds, and not paid
        self::assertSame([''], self::refusedFields(fn () => self::get(ChangePosted::class)->release($this->clerk, $id)));
        $item = (int) $this->db()->fetchOne('SELECT id FROM open_item WHERE document_id = ?', [$id]);
        self::assertSame(['items'], self::refusedFields(fn () => self::get(MayPay::class)->mayBeSettled([$item])));
        $this->decide($this->buyer, $id, $accept, 'the price of oak rose', $seen);
        self::assertNull($this->held($id));
        self::get(MayPay::class)->mayBeSettled([$item]);
        self::assertSame([''], self::refusedFields(fn () => $this->decide($this->buyer, $id, $accept)), 'twice');
    }

    public function testACreditIsAskedForAndTheRestIsPaid(): void
    {
        $line = $this->ordered();
        $id = $this->invoiced($line, '10 × 13');
        $claim = $this->decide($this->buyer, $id, MatchDecision::Claimed, 'agreed at 12.50') ?? self::fail();
        // 10 × 0.50 more than agreed
        self::assertSame(500, $claim->total);
        self::assertSame([0, 0, -12500], array_map($this->balance(...), ['2110', '5800', '2100']));
        self::assertNull($this->held($id));
    }

    public function testARefusedOneGoesBackToItsClerk(): void
    {
        $line = $this->ordered();
        $id = $this->invoiced($line, '10 × 13');
        self::assertSame(
            ['reason'],
            self::refusedFields(fn () => $this->decide($this->buyer, $id, MatchDecision::Refused)),
        );
        $this->decide($this->buyer, $id, MatchDecision::Refused, 'not our price');
        $item = (int) $this->db()->fetchOne('SELECT id FROM open_item WHERE document_id = ?', [$id]);
        self::assertSame(['items'], self::refusedFields(fn () => self::get(MayPay::class)->mayBeSettled([$item])));
        self::get(ReverseDocument::class)->reverse($this->clerk, $id, 'refused');
        self::assertSame([12500, 12500], $this->tie(self::DAY));
    }

    public function testWhoReceivedDoesNotMatchWhereTheCompanySaysSo(): void
    {
        $line = $this->ordered();
        self::get(Settings::class)->keep($this->clerk->companyId, ['match_apart' => 'yes']);
        self::assertSame(['lines.0.amount'], self::refusedFields(fn () => $this->invoiced($line, '1 × 12.50')));
    }
}
