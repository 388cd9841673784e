<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Goods\AwaitedQuery;
use Nelbix\App\Goods\DecideOrder;
use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\KeepOrder;
use Nelbix\App\Goods\NeverCame;
use Nelbix\App\Goods\OrderReader;
use Nelbix\App\Goods\RecordDelivery;
use Nelbix\App\Goods\ReverseDelivery;
use Nelbix\App\Goods\SendGoodsBack;
use Nelbix\App\Goods\UndoSlip;
use Nelbix\App\Invoices\DecideMatch;
use Nelbix\App\Invoices\DocumentForm;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\MatchDecision;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Invoices\PutRight;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/** Invoices that wait for their goods. Source: rules.md, Matching; issue: invoiced before received settles by itself. */
final class AwaitedTest extends AppCase
{
    /**
     * Ordered by the buyer, nothing of it has come.
     *
     * @param array<string, mixed> $more
     *
     * @return int the id of the order's line
     */
    private function ordered(string $quantity = '10', string $price = '12.50', array $more = []): int
    {
        $order = self::get(KeepOrder::class)->enter(
            $this->buyer,
            self::get(OrderReader::class)->read($this->buyer, [
                'party' => 'V-1',
                'ordered_on' => '2026-06-01',
                'lines' => [['account' => '1400', 'text' => 'oak', 'quantity' => $quantity, 'price' => $price]],
                ...$more,
            ]),
        );

        return (int) $this->db()->fetchOne('SELECT id FROM purchase_order_line WHERE order_id = ?', [$order]);
    }

    /** @param array<string, mixed> $more */
    private function invoiced(int $line, string $amount, string $day = '2026-06-05', array $more = []): int
    {
        $raw = [
            'party' => 'V-1',
            'number' => 'A-'.random_int(1, 999_999),
            'document_date' => $day,
            'look_alike_reason' => 'another one',
            'lines' => [['account' => '1400', 'amount' => $amount, 'text' => 'oak', 'order_line' => (string) $line]],
            ...$more,
        ];

        return self::get(PostInvoice::class)->post(
            $this->clerk,
            self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, $raw),
        );
    }

    private function came(int $line, string $quantity, string $day = '2026-06-10', ?Actor $by = null): int
    {
        return self::get(RecordDelivery::class)->record(
            $by ?? $this->receiver,
            self::get(DeliveryReader::class)->read($by ?? $this->receiver, [
                'delivered_on' => $day,
                'lines' => [['order_line' => (string) $line, 'quantity' => $quantity]],
            ]),
        );
    }

    /** @return array{int, int} what is received and not invoiced, and what is invoiced and not received; both tie out */
    private function ties(string $day): array
    {
        $found = [];
        foreach (self::get(TieOutQuery::class)->of($this->clerk->companyId, Day::of($day)) as $row) {
            self::assertSame([], $row['tie']->explainedBy, $day.' '.$row['name']);
            self::assertSame($row['tie']->ledger, $row['tie']->items, $day.' '.$row['name']);
            $found[$row['role']->value] = $row['tie']->items;
        }

        return [
            $found[AccountRole::ReceivedNotInvoiced->value] ?? self::fail(),
            $found[AccountRole::InvoicedNotReceived->value] ?? self::fail(),
        ];
    }

    private function held(int $document): ?string
    {
        $held = $this->db()->fetchOne('SELECT held_reason FROM document WHERE id = ?', [$document]);

        return \is_string($held) ? $held : null;
    }

    /** @return list<int> */
    private function balances(string ...$accounts): array
    {
        return array_values(array_map($this->balance(...), $accounts));
    }

    public function testItWaitsAndSettlesByItself(): void
    {
        $line = $this->ordered();
        $id = $this->invoiced($line, '10 × 12.70');
        self::assertSame([0, 12700, -12700], $this->balances('1400', '1420', '2100'));
        self::assertSame('oak: 10 invoiced and not received', $this->held($id));
        $this->came($line, '4');
        // 4 × 12.50 are accrued and cleared at once; 4 × 12.70 are not waited for any more
        self::assertSame([5000, 0, 7620, 80], $this->balances('1400', '2110', '1420', '5800'));
        self::assertNotNull($this->held($id), 'the rest is still to come');
        $this->came($line, '6', '2026-06-12');
        self::assertSame([12500, 0, 0, 200], $this->balances('1400', '2110', '1420', '5800'));
        self::assertNull($this->held($id));
        foreach (
            ['2026-06-04' => 0, '2026-06-05' => 12700, '2026-06-11' => 7620, '2026-06-12' => 0] as $day => $waits
        ) {
            self::assertSame([0, $waits], $this->ties($day), $day);
            self::assertSame(
                [$waits, $waits],
                self::get(AwaitedQuery::class)->sums($this->clerk->companyId, Day::of($day)),
            );
            $lines = self::get(AwaitedQuery::class)->lines($this->clerk->companyId, Day::of($day));
            self::assertSame($waits, array_sum(array_column($lines, 'base')));
        }
    }

    public function testTheOldestInvoiceIsServedFirstAndMoreThanInvoicedIsAccrued(): void
    {
        $line = $this->ordered();
        $young = $this->invoiced($line, '3 × 12.50', '2026-06-07');
        $old = $this->invoiced($line, '2 × 12.50', '2026-06-05');
        $this->came($line, '3');
        self::assertSame([null, 'oak: 3 invoiced and not received'], [$this->held($old), $this->held($young)]);
        $this->came($line, '7', '2026-06-11');
        self::assertNull($this->held($young));
        // 10 came, 5 are invoiced
        self::assertSame([6250, 0], $this->ties(self::DAY));
    }

    public function testWhatDidNotComeAfterAllIsWaitedForAgain(): void
    {
        $line = $this->ordered();
        $id = $this->invoiced($line, '10 × 12.50');
        $delivery = $this->came($line, '10');
        self::assertNull($this->held($id));
        self::get(ReverseDelivery::class)->reverse(
            $this->receiver,
            $delivery,
            Day::of('2026-06-13'),
            'of somebody else',
        );
        self::assertSame('oak: 10 invoiced and not received', $this->held($id));
        self::assertSame([0, 0, 12500], $this->balances('1400', '2110', '1420'));
        self::assertSame([[0, 0], [0, 12500]], [$this->ties('2026-06-12'), $this->ties('2026-06-13')]);
        $this->came($line, '10', '2026-06-14');
        self::assertSame([[0, 0], null], [$this->ties('2026-06-14'), $this->held($id)]);
    }

    public function testAnInvoiceThatIsReversedLeavesWhatCame(): void
    {
        $line = $this->ordered();
        $id = $this->invoiced($line, '10 × 13');
        $this->came($line, '4');
        self::get(ReverseDocument::class)->reverse($this->clerk, $id, 'of another company');
        // what came is received and not invoiced; nothing waits, and nothing is invoiced of the order
        self::assertSame([5000, -5000, 0, 0, 0], $this->balances('1400', '2110', '1420', '5800', '2100'));
        self::assertSame([5000, 0], $this->ties(self::DAY));
        self::assertSame(
            '0.0000',
            $this->db()->fetchOne('SELECT invoiced FROM purchase_order_line WHERE id = ?', [$line]),
        );
        $this->invoiced($line, '6 × 12.50', '2026-06-11');
        $this->came($line, '6', '2026-06-14');
        self::assertSame([5000, 0], $this->ties(self::DAY));
    }

    public function testItIsNotReversedBeforeTheLastThingThatWasTakenBack(): void
    {
        $line = $this->ordered();
        $id = $this->invoiced($line, '10 × 12.50');
        $delivery = $this->came($line, '10');
        self::get(ReverseDelivery::class)->reverse($this->receiver, $delivery, Day::of('2026-06-13'), 'wrong');
        $reversal = self::get(ReverseDocument::class)->reverse($this->clerk, $id, 'of another company');
        self::assertSame(
            '2026-06-13',
            $this->db()->fetchOne('SELECT posting_date FROM document WHERE id = ?', [$reversal]),
        );
        foreach (['2026-06-09' => 12500, '2026-06-11' => 0, '2026-06-13' => 0] as $day => $waits) {
            self::assertSame([0, $waits], $this->ties($day), $day);
        }
    }

    public function testGoodsThatWentBackAreNotThereAgainWhileAnInvoiceWaitsForThem(): void
    {
        $line = $this->ordered();
        $this->came($line, '10');
        $came = (int) $this->db()->fetchOne('SELECT id FROM delivery_line');
        $back = self::get(SendGoodsBack::class)->send($this->receiver, [$came => null], Day::of('2026-06-11'), 'wet');
        $this->invoiced($line, '10 × 12.50', '2026-06-12');
        $undo = fn () => self::get(UndoSlip::class)->undo($this->clerk, $back, Day::of(self::DAY), 'dry by now');
        self::assertSame([''], self::refusedFields($undo));
        $this->came($line, '10', '2026-06-13');
        self::assertSame([0, 0], $this->ties(self::DAY));
    }

    public function testAnotherCurrency(): void
    {
        $this->db()->executeStatement(
            'INSERT INTO exchange_rate (company_id, valid_on, from_currency, to_currency, rate) '.
                "VALUES (:c, '2026-06-01', 'EUR', 'USD', 1.1), (:c, '2026-06-10', 'EUR', 'USD', 1.2)",
            ['c' => $this->clerk->companyId],
        );
        $line = $this->ordered('10', '10', ['currency' => 'EUR']);
        $this->invoiced($line, '10 × 10.50', '2026-06-05', ['currency' => 'EUR']);
        self::assertSame([11550, -11550], $this->balances('1420', '2100'));
        $this->came($line, '10');
        // accrued 100.00 EUR at 1.2; invoiced 105.00 EUR at 1.1: variance 5.00 EUR at 1.1, the rate made 10.00 of the rest
        self::assertSame([12000, 0, 0, 550], $this->balances('1400', '2110', '1420', '5800'));
        self::assertSame(-1000, array_sum(array_map($this->balance(...), $this->accounts('exchange_realised'))));
    }

    /** @return list<string> */
    private function accounts(string $role): array
    {
        return array_map(
            strval(...),
            $this->db()->fetchFirstColumn('SELECT number FROM account WHERE company_id = ? AND role = ?', [
                $this->clerk->companyId,
                $role,
            ]),
        );
    }

    public function testWhatCannotBeWaitedForIsRefused(): void
    {
        $line = $this->ordered();
        $field = ['lines.0.amount'];
        self::assertSame($field, self::refusedFields(fn () => $this->invoiced($line, '125.00')), 'no quantity');
        self::assertSame(
            $field,
            self::refusedFields(fn () => $this->invoiced($line, '11 × 12.50')),
            'more than ordered',
        );
        self::assertSame(
            $field,
            self::refusedFields(fn () => $this->invoiced($line, '1 × 12.50', more: ['kind' => 'credit_note'])),
        );
        self::assertSame($field, self::refusedFields(fn () => $this->invoiced($line + 99, '1 × 12.50')));
        $this->invoiced($line, '6 × 12.50');
        self::assertSame(
            $field,
            self::refusedFields(fn () => $this->invoiced($line, '5 × 12.50')),
            'waited for already',
        );
        // an order that an invoice waits for is not closed
        $order = (int) $this->db()->fetchOne('SELECT order_id FROM purchase_order_line WHERE id = ?', [$line]);
        $close = fn () => self::get(DecideOrder::class)->close($this->buyer, $order, 'enough');
        self::assertSame([''], self::refusedFields($close));
        $this->came($line, '6');
        $close();
        self::assertSame($field, self::refusedFields(fn () => $this->invoiced($line, '1 × 12.50')), 'closed');
    }

    public function testAnOrderIsNotMadeLessThanWhatCameAndWhatIsWaitedFor(): void
    {
        $line = $this->ordered();
        $this->came($line, '6', '2026-06-04');
        $this->invoiced($line, '4 × 12.50');
        $order = (int) $this->db()->fetchOne('SELECT order_id FROM purchase_order_line WHERE id = ?', [$line]);
        $change = fn (string $quantity) => self::get(KeepOrder::class)->change(
            $this->buyer,
            $order,
            self::get(OrderReader::class)->read($this->buyer, [
                'party' => 'V-1',
                'lines' => [
                    [
                        'id' => (string) $line,
                        'account' => '1400',
                        'text' => 'oak',
                        'quantity' => $quantity,
                        'price' => '12.50',
                    ],
                ],
            ]),
            null,
        );
        self::assertSame(['lines.0.quantity'], self::refusedFields(fn () => $change('9')));
        $change('11');
        $this->came($line, '4', '2026-06-11');
        self::assertSame([7500, 0], $this->ties(self::DAY));
    }

    public function testWhoEnteredTheInvoiceDoesNotReceiveWhereTheCompanySaysSo(): void
    {
        $line = $this->ordered();
        $this->invoiced($line, '6 × 12.50');
        self::get(Settings::class)->keep($this->clerk->companyId, ['match_apart' => 'yes']);
        self::assertSame([''], self::refusedFields(fn () => $this->came($line, '6', by: $this->clerk)));
        $this->came($line, '6');
        self::assertSame([0, 0], $this->ties(self::DAY));
    }

    public function testAcceptedBeforeItCameItIsNotHeldAgain(): void
    {
        $line = $this->ordered();
        $id = $this->invoiced($line, '10 × 12.50');
        self::get(DecideMatch::class)->decide(
            $this->buyer,
            $id,
            MatchDecision::Accepted,
            'they ship on payment',
            false,
            null,
        );
        self::assertNull($this->held($id));
        $delivery = $this->came($line, '10');
        self::get(ReverseDelivery::class)->reverse($this->receiver, $delivery, Day::of(self::DAY), 'wrong');
        self::assertNull($this->held($id), 'whoever ordered has accepted that it waits');
        $came = fn () => self::get(DecideMatch::class)->decide(
            $this->approver,
            $id,
            MatchDecision::Came,
            '',
            true,
            null,
        );
        self::assertSame(['decision'], self::refusedFields($came));
    }

    public function testACompanyMayPayBeforeGoodsCome(): void
    {
        self::get(Settings::class)->keep($this->clerk->companyId, ['match_not_received' => 'posts']);
        $line = $this->ordered();
        self::assertNull($this->held($this->invoiced($line, '5 × 12.50')));
        self::assertSame('oak: 13.00 each, agreed 12.50, 4.0 % more', $this->held($this->invoiced($line, '5 × 13')));
    }

    public function testWhatNeverComesIsClearedAndThatIsUndone(): void
    {
        $line = $this->ordered();
        $id = $this->invoiced($line, '10 × 12.50');
        $this->came($line, '7');
        $waits = array_map(intval(...), $this->db()->fetchFirstColumn('SELECT id FROM goods_awaited'));
        $never = fn (string $why, string $day, string $seen = '3'): int => self::get(NeverCame::class)->clear(
            $this->clerk,
            array_fill_keys($waits, \Brick\Math\BigDecimal::of($seen)),
            Day::of($day),
            $why,
        );
        self::assertSame(['reason'], self::refusedFields(fn () => $never(' ', self::DAY)));
        self::assertSame(['date'], self::refusedFields(fn () => $never('lost at sea', '2026-06-04')));
        self::assertSame(['lines'], self::refusedFields(fn () => $never('lost at sea', self::DAY, '10')), 'an old page');
        $slip = $never('lost at sea', self::DAY);
        self::assertSame([8750, 0, 3750], $this->balances('1400', '1420', '5800'));
        self::assertSame([0, 0], $this->ties(self::DAY));
        self::assertSame(['lines'], self::refusedFields(fn () => $never('again', self::DAY)));
        self::get(UndoSlip::class)->undo($this->clerk, $slip, Day::of(self::DAY), 'it floats');
        self::assertSame([3750, 0], $this->balances('1420', '5800'));
        $never('sunk', self::DAY);
        // what an arrival settled goes back with its delivery or its invoice only; the invoice takes all of it back
        $arrived = (int) $this->db()->fetchOne("SELECT id FROM goods_slip WHERE kind = 'arrived'");
        $undo = fn () => self::get(UndoSlip::class)->undo($this->clerk, $arrived, Day::of(self::DAY), 'no');
        self::assertSame([''], self::refusedFields($undo));
        self::get(ReverseDocument::class)->reverse($this->clerk, $id, 'never was ours');
        self::assertSame([8750, -8750, 0, 0], $this->balances('1400', '2110', '1420', '5800'));
        self::assertSame([8750, 0], $this->ties(self::DAY));
    }

    public function testItIsPutRightWithWhatCameAndWhatDidNot(): void
    {
        $line = $this->ordered();
        $id = $this->invoiced($line, '10 × 12.50', more: ['document_date' => self::DAY]);
        $this->came($line, '4', self::DAY);
        $document = self::get(\Doctrine\ORM\EntityManagerInterface::class)->find(
            \Nelbix\App\Books\Document::class,
            $id,
        );
        self::assertNotNull($document);
        $form = self::get(DocumentForm::class)->of($document, true);
        self::assertSame(['4 × 12.5', '6 × 12.5'], array_column((array) $form['lines'], 'amount'));
        self::assertSame(['', (string) $line], array_column((array) $form['lines'], 'order_line'));
        $input = self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, [
            ...$form,
            '_put_right' => (string) $id,
            'description' => 'oak for the pier',
        ]);
        self::get(PutRight::class)->putRight($this->clerk, $id, $input, 'what it is for');
        self::assertSame([5000, 0, 7500, -12500], $this->balances('1400', '2110', '1420', '2100'));
        self::assertSame([0, 7500], $this->ties(self::DAY));
    }

    public function testSomebodyWasFirst(): void
    {
        $line = $this->ordered();
        $reader = self::get(InvoiceReader::class);
        $raw = [
            'party' => 'V-1',
            'number' => 'A-2',
            'document_date' => self::DAY,
            'look_alike_reason' => 'another one',
            'lines' => [
                ['account' => '1400', 'amount' => '6 × 12.50', 'text' => 'oak', 'order_line' => (string) $line],
            ],
        ];
        $input = $reader->read($this->clerk, Side::Payables, $raw);
        $plan = self::get(\Nelbix\App\Invoices\CheckInvoice::class)->plan(
            $this->clerk,
            new \Nelbix\App\Invoices\InvoiceToPost($input),
        );
        // worked out while it was free; by the time it is written another invoice waits for it
        $this->invoiced($line, '10 × 12.50');
        try {
            self::get(PostInvoice::class)->postPlanned(
                $this->clerk,
                [new \Nelbix\App\Invoices\InvoiceToPost($input)],
                [$plan],
            );
            self::fail('both wait for the same');
        } catch (Refused $e) {
            self::assertStringContainsString('Only 0 of oak are still to come', $e->getMessage());
        }
    }
}
