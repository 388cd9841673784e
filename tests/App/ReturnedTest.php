<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\KeepOrder;
use Nelbix\App\Goods\OrderReader;
use Nelbix\App\Goods\RecordDelivery;
use Nelbix\App\Goods\ReverseDelivery;
use Nelbix\App\Goods\SendGoodsBack;
use Nelbix\App\Goods\UndoSlip;
use Nelbix\App\Invoices\DecideMatch;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\MatchDecision;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Goods that go back after they were invoiced are claimed until the vendor credits them. */
final class ReturnedTest extends AppCase
{
    private int $order;

    private int $came;

    private int $invoice;

    /** Ten ordered and received at 12.50, eight of them invoiced at 12.90 with 8 % tax. */
    protected function setUp(): void
    {
        parent::setUp();
        $order = self::get(KeepOrder::class)->enter(
            $this->buyer,
            self::get(OrderReader::class)->read($this->buyer, [
                'party' => 'V-1',
                'ordered_on' => '2026-06-01',
                'lines' => [['account' => '1400', 'text' => 'oak', 'quantity' => '10', 'price' => '12.50']],
            ]),
        );
        $this->order = (int) $this->db()->fetchOne('SELECT id FROM purchase_order_line WHERE order_id = ?', [$order]);
        $delivery = self::get(RecordDelivery::class)->record(
            $this->receiver,
            self::get(DeliveryReader::class)->read($this->receiver, [
                'delivered_on' => '2026-06-05',
                'lines' => [['order_line' => (string) $this->order, 'quantity' => '10']],
            ]),
        );
        $this->came = (int) $this->db()->fetchOne('SELECT id FROM delivery_line WHERE delivery_id = ?', [$delivery]);
        $this->invoice = self::get(PostInvoice::class)->post(
            $this->clerk,
            self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, [
                'party' => 'V-1',
                'number' => 'R-1',
                'document_date' => '2026-06-08',
                'lines' => [
                    [
                        'account' => '1400',
                        'amount' => '8 × 12.90',
                        'text' => 'oak',
                        'tax_code' => 'P8',
                        'delivery_line' => (string) $this->came,
                    ],
                ],
            ]),
        );
    }

    private function back(string $quantity, string $why = 'warped', string $day = '2026-06-10'): int
    {
        return self::get(SendGoodsBack::class)->send(
            $this->receiver,
            [$this->came => BigDecimal::of($quantity)],
            Day::of($day),
            $why,
        );
    }

    /** @return list<int> stock, received-not-invoiced, variance, input tax, payables */
    private function books(): array
    {
        return array_map($this->balance(...), ['1400', '2110', '5800', '1300', '2100']);
    }

    /** @return array{string, string} received and invoiced of the order */
    private function counted(): array
    {
        $row = $this->db()->fetchNumeric('SELECT received, invoiced FROM purchase_order_line WHERE id = ?', [
            $this->order,
        ]);

        return [(string) ($row[0] ?? ''), (string) ($row[1] ?? '')];
    }

    public function testWhatIsNotInvoicedGoesFirstAndTheRestIsClaimed(): void
    {
        self::assertSame([12500, -2500, 320, 826, -11146], $this->books());
        self::assertSame(['reason'], self::refusedFields(fn () => $this->back('6', ' ')));
        self::assertSame(
            ['date'],
            self::refusedFields(fn () => $this->back('6', day: '2026-06-07')),
            'what is claimed went back after it was invoiced',
        );
        $slip = $this->back('6');
        // two at 12.50 leave received-not-invoiced; four are claimed at 12.90 and their tax: 50.00 + 1.60 + 4.13
        self::assertSame([5000, 0, 160, 413, -5573], $this->books());
        self::assertSame(['4.0000', '4.0000'], $this->counted());
        $claim = $this->db()->fetchAssociative("SELECT id, total, kind FROM document WHERE kind = 'debit_note'");
        self::assertSame(5573, (int) ($claim['total'] ?? 0));
        // only four are here; and the invoice stands as long as goods of it are claimed
        self::assertSame(["lines.{$this->came}.quantity"], self::refusedFields(fn () => $this->back('5')));
        $reverse = fn () => self::get(ReverseDocument::class)->reverse($this->clerk, $this->invoice, 'wrong');
        self::assertSame([''], self::refusedFields($reverse));
        self::get(UndoSlip::class)->undo($this->clerk, $slip, Day::of(self::DAY), 'they are good');
        self::assertSame([12500, -2500, 320, 826, -11146], $this->books());
        self::assertSame(['10.0000', '8.0000'], $this->counted());
        $reverse();
        self::assertSame([12500, -12500, 0, 0, 0], $this->books());
    }

    public function testAllOfItGoesBackInPartsToTheCent(): void
    {
        foreach (['3', '3', '4'] as $quantity) {
            $this->back($quantity);
        }
        [$stock, $received, $variance, $tax] = $this->books();
        self::assertSame([0, 0, 0], [$stock, $received, $variance]);
        self::assertLessThanOrEqual(1, abs($tax), 'the tax of each claim is rounded by itself');
        self::assertSame(["lines.{$this->came}.quantity"], self::refusedFields(fn () => $this->back('1')));
    }

    public function testTheVendorsCreditNoteTakesTheClaimsPlace(): void
    {
        $slip = $this->back('6');
        $claim = (string) $this->db()->fetchOne("SELECT number FROM document WHERE kind = 'debit_note'");
        $credit = self::get(PostInvoice::class)->post(
            $this->clerk,
            self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, [
                'party' => 'V-1',
                'number' => 'CR-1',
                'kind' => 'credit_note',
                'document_date' => '2026-06-12',
                'against' => $claim,
                'lines' => [['account' => '1400', 'amount' => '50.00', 'text' => 'oak back', 'tax_code' => 'P8']],
            ]),
        );
        // the claim was 55.73; the vendor credits 54.00
        self::assertSame([5000, 0, 320, 426, -5746], $this->books());
        self::assertSame(['4.0000', '4.0000'], $this->counted(), 'the goods are back with the vendor all the same');
        self::assertSame(
            'reversed',
            $this->db()->fetchOne("SELECT state FROM document WHERE kind = 'debit_note' AND reverses_id IS NULL"),
        );
        $undo = fn () => self::get(UndoSlip::class)->undo($this->clerk, $slip, Day::of(self::DAY), 'no');
        self::assertSame([''], self::refusedFields($undo));
        self::get(ReverseDocument::class)->reverse($this->clerk, $credit, 'of another company');
        $undo();
        self::assertSame([12500, -2500, 320, 826, -11146], $this->books());
    }

    /**
     * Weygandt, Kimmel, Kieso: Accounting Principles, chapter 5, Sauk Stereo (from memory): goods of 3,800 received and invoiced on
     * account, 300 of them sent back; inventory and accounts payable are 3,500.
     */
    public function testTheExampleOfATextbook(): void
    {
        $before = $this->books();
        $delivery = self::get(RecordDelivery::class)->record(
            $this->receiver,
            self::get(DeliveryReader::class)->read($this->receiver, [
                'party' => 'V-1',
                'delivered_on' => '2026-05-04',
                'lines' => [['account' => '1400', 'text' => 'stereos', 'quantity' => '38', 'price' => '100']],
            ]),
        );
        $line = (int) $this->db()->fetchOne('SELECT id FROM delivery_line WHERE delivery_id = ?', [$delivery]);
        self::get(PostInvoice::class)->post(
            $this->clerk,
            self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, [
                'party' => 'V-1',
                'number' => '731',
                'document_date' => '2026-05-04',
                'look_alike_reason' => 'the one of the book',
                'lines' => [
                    [
                        'account' => '1400',
                        'amount' => '38 × 100',
                        'text' => 'stereos',
                        'delivery_line' => (string) $line,
                    ],
                ],
            ]),
        );
        self::get(SendGoodsBack::class)->send(
            $this->receiver,
            [$line => BigDecimal::of(3)],
            Day::of('2026-05-08'),
            'defective',
        );
        $moved = array_map(static fn (int $a, int $b): int => $a - $b, $this->books(), $before);
        self::assertSame([350_000, 0, 0, 0, -350_000], $moved);
    }

    /** 0.40 each is above what was agreed; it is claimed once, whichever comes first: the decision or the return. */
    public function testADifferenceIsClaimedOnceHoweverItComes(): void
    {
        $decide = fn () => self::get(DecideMatch::class)->decide(
            $this->buyer,
            $this->invoice,
            MatchDecision::Claimed,
            'agreed at 12.50',
            false,
            null,
        );
        $decide();
        $this->back('10');
        // the difference of all eight and the goods at the agreed price are the invoice: nothing is left of it
        self::assertSame([0, 0, 0], \array_slice($this->books(), 0, 3));
        self::assertLessThanOrEqual(1, abs($this->books()[4]));
    }

    public function testADifferenceOfWhatWentBackIsNotClaimedAgain(): void
    {
        $this->back('7');
        // five of eight went back at 12.90; three are here, of which 0.40 each is too much
        $claim = self::get(DecideMatch::class)->decide(
            $this->buyer,
            $this->invoice,
            MatchDecision::Claimed,
            'agreed at 12.50',
            false,
            null,
        );
        self::assertSame(120, $claim?->net);
        self::assertSame([3750, 0, 0], \array_slice($this->books(), 0, 3));
    }

    public function testWhatCameAgainMeanwhileStays(): void
    {
        $slip = $this->back('6');
        self::get(RecordDelivery::class)->record(
            $this->receiver,
            self::get(DeliveryReader::class)->read($this->receiver, [
                'delivered_on' => '2026-06-11',
                'lines' => [['order_line' => (string) $this->order, 'quantity' => '6']],
            ]),
        );
        $undo = fn () => self::get(UndoSlip::class)->undo($this->clerk, $slip, Day::of(self::DAY), 'found after all');
        self::assertSame([''], self::refusedFields($undo));
        $claim = (int) $this->db()->fetchOne("SELECT id FROM document WHERE kind = 'debit_note'");
        $reverse = fn () => self::get(ReverseDocument::class)->reverse($this->clerk, $claim, 'found after all');
        self::assertSame([''], self::refusedFields($reverse));
        self::assertSame(['10.0000', '4.0000'], $this->counted());
    }

    /** Goods that came after their invoice and went back: the delivery stands as long as they are claimed. */
    public function testADeliveryOfWhichGoodsAreClaimedStands(): void
    {
        $this->back('6');
        $raw = ['account' => '1400', 'amount' => '6 × 12.50', 'text' => 'oak', 'order_line' => (string) $this->order];
        self::get(PostInvoice::class)->post(
            $this->clerk,
            self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, [
                'party' => 'V-1',
                'number' => 'R-2',
                'document_date' => '2026-06-11',
                'look_alike_reason' => 'the second',
                'lines' => [$raw],
            ]),
        );
        $delivery = self::get(RecordDelivery::class)->record(
            $this->receiver,
            self::get(DeliveryReader::class)->read($this->receiver, [
                'delivered_on' => '2026-06-12',
                'lines' => [['order_line' => (string) $this->order, 'quantity' => '6']],
            ]),
        );
        $line = (int) $this->db()->fetchOne('SELECT id FROM delivery_line WHERE delivery_id = ?', [$delivery]);
        $send = self::get(SendGoodsBack::class);
        $slip = $send->send($this->receiver, [$line => BigDecimal::of(2)], Day::of('2026-06-13'), 'wet');
        $reverse = fn () => self::get(ReverseDelivery::class)->reverse(
            $this->receiver,
            $delivery,
            Day::of(self::DAY),
            'wrong',
        );
        self::assertSame([''], self::refusedFields($reverse));
        self::get(UndoSlip::class)->undo($this->clerk, $slip, Day::of(self::DAY), 'dry');
        $reverse();
        self::assertSame(7500, $this->balance('1420'));
    }

    public function testAReturnMayBeTakenBackByItsClaimAlone(): void
    {
        $this->back('4');
        $claim = (int) $this->db()->fetchOne("SELECT id FROM document WHERE kind = 'debit_note'");
        self::get(ReverseDocument::class)->reverse($this->clerk, $claim, 'only two went');
        self::assertSame([10000, 0, 320, 826, -11146], $this->books());
        self::assertSame(['8.0000', '8.0000'], $this->counted());
        $this->back('8');
        self::assertSame(['0.0000', '0.0000'], $this->counted());
    }
}
