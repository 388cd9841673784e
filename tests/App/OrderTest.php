<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Approval;
use Nelbix\App\Goods\DecideOrder;
use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\KeepOrder;
use Nelbix\App\Goods\OrderReader;
use Nelbix\App\Goods\PurchaseOrder;
use Nelbix\App\Goods\RecordDelivery;
use Nelbix\App\Goods\ReverseDelivery;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/** Orders, and what comes for them. */
final class OrderTest extends AppCase
{
    /**
     * @param list<array<string, string>> $lines
     * @param array<string, mixed> $more
     */
    private function order(array $lines = [], array $more = [], ?FormKey $key = null): int
    {
        $oak = ['account' => '1400', 'text' => 'oak', 'quantity' => '10', 'unit' => 'MTR', 'price' => '12.50'];

        return self::get(KeepOrder::class)->enter(
            $this->clerk,
            self::get(OrderReader::class)->read($this->clerk, [
                'party' => 'V-1',
                'ordered_on' => '2026-06-01',
                'lines' => [] === $lines ? [$oak] : $lines,
                ...$more,
            ]),
            $key,
        );
    }

    /** @return list<array<string, mixed>> */
    private function lines(int $order): array
    {
        return $this->db()->fetchAllAssociative(
            'SELECT * FROM purchase_order_line WHERE order_id = ? ORDER BY position',
            [$order],
        );
    }

    /** @param array<string, mixed> $more */
    private function came(int $line, string $quantity, array $more = [], bool $services = false, ?Actor $by = null): int
    {
        $raw = [
            'delivered_on' => '2026-06-10',
            'lines' => [1_000_000 + $line => ['order_line' => (string) $line, 'quantity' => $quantity, ...$more]],
        ];
        $actor = $by ?? $this->clerk;

        return self::get(RecordDelivery::class)->record(
            $actor,
            self::get(DeliveryReader::class)->read($actor, $raw),
            null,
            $services,
        );
    }

    public function testWhatComesIsCountedAtTheAgreedPrice(): void
    {
        $order = $this->order();
        [$line] = $this->lines($order);
        self::assertSame(
            'PO-26-00001',
            $this->db()->fetchOne('SELECT number FROM purchase_order WHERE id = ?', [$order]),
        );
        $this->came((int) $line['id'], '6');
        $last = $this->came((int) $line['id'], '4', ['price' => '13']);
        // 6 × 12.50 as agreed, 4 × 13.00 as the paper shows
        self::assertSame([12700, -12700], [$this->balance('1400'), $this->balance('2110')]);
        self::assertSame('10.0000', $this->lines($order)[0]['received']);
        $delivered = $this->db()->fetchAssociative('SELECT * FROM delivery_line WHERE delivery_id = ?', [$last]) ?: [];
        self::assertSame(['oak', 'MTR'], [$delivered['text'], $delivered['unit']]);
        self::get(ReverseDelivery::class)->reverse($this->clerk, $last, Day::of(self::DAY), 'another yard’s');
        self::assertSame('6.0000', $this->lines($order)[0]['received'], 'what is taken back is still to come');
    }

    public function testMoreThanOrderedIsRefused(): void
    {
        [$line] = $this->lines($this->order());
        $field = 'lines.'.(1_000_000 + (int) $line['id']).'.quantity';
        $this->came((int) $line['id'], '6');
        self::assertSame([$field], self::refusedFields(fn () => $this->came((int) $line['id'], '4.0001')));
        self::get(Settings::class)->keep($this->clerk->companyId, ['match_quantity_percent' => '5']);
        // 5 % of ten is half of one
        $this->came((int) $line['id'], '4.5');
        self::assertSame([$field], self::refusedFields(fn () => $this->came((int) $line['id'], '0.0001')));
    }

    public function testAboveTheLimitSomebodyElseApproves(): void
    {
        $lines = [['account' => '1400', 'text' => 'mast', 'quantity' => '1', 'price' => '5000.01']];
        $order = $this->order($lines);
        [$line] = $this->lines($order);
        $field = 'lines.'.(1_000_000 + (int) $line['id']).'.order_line';
        self::assertSame([$field], self::refusedFields(fn () => $this->came((int) $line['id'], '1')));
        $decide = self::get(DecideOrder::class);
        self::assertSame([''], self::refusedFields(fn () => $decide->decide($this->clerk, $order, true, '', null)));
        $stale = $this->of($order)->version;
        $this->changed($order, [['id' => (string) $line['id'], ...$lines[0], 'price' => '5500']]);
        self::assertSame([''], self::refusedFields(fn () => $decide->decide($this->approver, $order, true, '', $stale)));
        self::assertSame(
            ['reason'],
            self::refusedFields(fn () => $decide->decide($this->approver, $order, false, '', null)),
        );
        $decide->decide($this->approver, $order, true, '', $this->of($order)->version);
        // less is approved with it; more is decided on again
        $this->changed($order, [['id' => (string) $line['id'], ...$lines[0], 'price' => '5400']]);
        self::assertSame(Approval::Approved, $this->of($order)->approval);
        $this->changed($order, [['id' => (string) $line['id'], ...$lines[0], 'price' => '5600']]);
        self::assertSame(Approval::Awaiting, $this->of($order)->approval);
        $decide->decide($this->approver, $order, false, 'too dear', null);
        self::assertSame([$field], self::refusedFields(fn () => $this->came((int) $line['id'], '1')));
    }

    /** @param list<array<string, string>> $lines */
    private function changed(int $order, array $lines, ?int $version = null): void
    {
        self::get(KeepOrder::class)->change(
            $this->clerk,
            $order,
            self::get(OrderReader::class)->read($this->clerk, [
                'party' => 'V-1',
                'ordered_on' => '2026-06-01',
                'lines' => $lines,
            ]),
            $version,
        );
    }

    private function of(int $order): PurchaseOrder
    {
        $em = self::get(EntityManagerInterface::class);
        $em->clear();

        return $em->find(PurchaseOrder::class, $order) ?? self::fail();
    }

    public function testWhatHasComeStays(): void
    {
        $order = $this->order();
        [$line] = $this->lines($order);
        $this->came((int) $line['id'], '6');
        $oak = [
            'id' => (string) $line['id'],
            'account' => '1400',
            'text' => 'oak',
            'quantity' => '6',
            'unit' => 'MTR',
            'price' => '12',
        ];
        self::assertSame(
            ['lines.0.quantity'],
            self::refusedFields(fn () => $this->changed($order, [['quantity' => '5.9'] + $oak])),
        );
        self::assertSame(
            ['lines.0.unit'],
            self::refusedFields(fn () => $this->changed($order, [['unit' => 'KGM'] + $oak])),
        );
        $nails = ['account' => '5000', 'text' => 'nails', 'quantity' => '2', 'unit' => 'XBX', 'price' => '8'];
        self::assertSame(['lines'], self::refusedFields(fn () => $this->changed($order, [$nails])));
        $version = $this->of($order)->version;
        $this->changed($order, [$oak, $nails]);
        self::assertSame(
            [''],
            self::refusedFields(fn () => $this->changed($order, [$oak], $version)),
            'a page that is old',
        );
        self::assertSame(8800, $this->of($order)->amount);
        self::get(DecideOrder::class)->close($this->clerk, $order, 'the rest is not needed');
        $nail = (int) $this->lines($order)[1]['id'];
        self::assertSame(
            ['lines.'.(1_000_000 + $nail).'.order_line'],
            self::refusedFields(fn () => $this->came($nail, '1')),
        );
        self::assertSame([''], self::refusedFields(fn () => $this->changed($order, [$oak])));
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(DecideOrder::class)->close($this->clerk, $order, 'twice')),
        );
    }

    public function testAServiceIsAcceptedByWhoeverOrderedIt(): void
    {
        $order = $this->order([
            [
                'kind' => 'service',
                'account' => '5000',
                'text' => 'crane',
                'quantity' => '3',
                'unit' => 'HUR',
                'price' => '90',
            ],
        ]);
        $line = (int) $this->lines($order)[0]['id'];
        $field = 'lines.'.(1_000_000 + $line).'.order_line';
        self::assertSame([$field], self::refusedFields(fn () => $this->came($line, '2')), 'the receiver does not');
        self::assertSame([$field], self::refusedFields(fn () => $this->came($line, '2', [], true, $this->approver)));
        $this->came($line, '2', [], true);
        self::assertSame(-18000, $this->balance('2110'));
    }

    public function testWhatIsWrongIsNamedAndNothingIsKept(): void
    {
        $fields = self::refusedFields(
            fn () => $this->order(
                [
                    [
                        'account' => '2110',
                        'text' => '',
                        'quantity' => 'x',
                        'price' => '0',
                        'unit' => 'a metre or so',
                        'kind' => 'gift',
                    ],
                    [
                        'account' => '9',
                        'text' => 'oak',
                        'quantity' => '1',
                        'price' => '1',
                        'tax_code' => 'Z',
                        'project' => 'Z',
                    ],
                ],
                ['party' => 'nobody', 'currency' => 'XXY', 'wanted_by' => '2026-05-01', 'note' => str_repeat('x', 256)],
            ),
        );
        self::assertSame(
            [
                'note',
                'party',
                'wanted_by',
                'currency',
                'lines.0.text',
                'lines.0.kind',
                'lines.0.account',
                'lines.0.quantity',
                'lines.0.price',
                'lines.0.unit',
                'lines.1.account',
                'lines.1.tax_code',
                'lines.1.project',
            ],
            $fields,
        );
        self::assertSame('0', (string) $this->db()->fetchOne('SELECT COUNT(*) FROM purchase_order'));
    }

    public function testAnOrderOfAnotherVendorIsRecordedByItself(): void
    {
        [$mine] = $this->lines($this->order());
        self::get(\Nelbix\App\Parties\SaveParty::class)->save($this->clerk, \Nelbix\Core\Ledger\Side::Payables, [
            'code' => 'V-2',
            'name' => 'Corbel Resin',
            'default_account' => '5000',
        ]);
        [$theirs] = $this->lines($this->order([], ['party' => 'V-2']));
        $raw = ['delivered_on' => '2026-06-10', 'party' => 'V-1'];
        foreach ([$mine, $theirs] as $line) {
            $raw['lines'][1_000_000 + (int) $line['id']] = ['order_line' => (string) $line['id'], 'quantity' => '1'];
        }
        $problems = self::get(DeliveryReader::class)->read($this->clerk, $raw)->problems;
        self::assertSame(
            ['lines.'.(1_000_000 + (int) $theirs['id']).'.order_line'],
            array_column($problems, 'field'),
        );
    }

    public function testANumberIsUsedOnce(): void
    {
        $this->order([], ['number' => 'BO-7']);
        self::assertSame(['number'], self::refusedFields(fn () => $this->order([], ['number' => 'BO-7'])));
        self::assertSame('PO-26-00001', $this->of($this->order())->number, 'and the next one is entered all the same');
    }

    /** The receiver's form carries every line that may come, however many there are. */
    public function testWhatCameIsFoundAmongManyThatDidNot(): void
    {
        $raw = ['party' => 'V-1', 'delivered_on' => '2026-06-10', 'lines' => []];
        $lines = $this->lines(
            $this->order(array_fill(0, 150, ['account' => '1400', 'text' => 'oak', 'quantity' => '1', 'price' => '2'])),
        );
        foreach ($lines as $n => $line) {
            $raw['lines'][1_000_000 + (int) $line['id']] = [
                'order_line' => (string) $line['id'],
                'quantity' => 149 === $n ? '1' : '',
            ];
        }
        $raw['lines'][] = ['account' => '5000', 'text' => 'nobody ordered it', 'quantity' => '1', 'price' => '1'];
        $input = self::get(DeliveryReader::class)->read($this->clerk, $raw);
        self::assertSame([[], 300], [$input->problems, $input->amount()]);
        $all = array_map(static fn (array $l): array => ['quantity' => '1'] + $l, $raw['lines']);
        self::assertSame(
            ['lines'],
            array_column(
                self::get(DeliveryReader::class)->read($this->clerk, ['lines' => $all] + $raw)->problems,
                'field',
            ),
        );
    }

    public function testTheSameFormTwiceMakesOneOrder(): void
    {
        $key = new FormKey(str_repeat('a', 40), str_repeat('b', 64));
        self::assertSame($this->order(key: $key), $this->order(key: $key));
        try {
            $this->order(key: new FormKey($key->key, str_repeat('c', 64)));
            self::fail('other words under the same key');
        } catch (Refused $e) {
            self::assertNotSame('', $e->getMessage());
        }
    }
}
