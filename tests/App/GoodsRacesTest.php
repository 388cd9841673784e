<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\KeepOrder;
use Nelbix\App\Goods\OrderReader;
use Nelbix\App\Goods\RecordDelivery;

/** Two people at once at the same goods: one success and one clear refusal, and never the same goods twice. */
final class GoodsRacesTest extends CommittedCase
{
    private function ordered(): int
    {
        $raw = [
            'party' => 'V-1',
            'ordered_on' => '2026-06-01',
            'lines' => [['account' => '1400', 'text' => 'oak', 'quantity' => '10', 'price' => '12.50']],
        ];
        $id = self::get(KeepOrder::class)->enter($this->clerk, self::get(OrderReader::class)->read($this->clerk, $raw));

        return (int) $this->db()->fetchOne('SELECT id FROM purchase_order_line WHERE order_id = ?', [$id]);
    }

    /** @return array{int, int} the delivery, and its line */
    private function delivered(int $order): array
    {
        $raw = ['delivered_on' => '2026-06-10', 'lines' => [['order_line' => (string) $order, 'quantity' => '10']]];
        $id = self::get(RecordDelivery::class)->record(
            $this->clerk,
            self::get(DeliveryReader::class)->read($this->clerk, $raw),
        );

        return [$id, (int) $this->db()->fetchOne('SELECT id FROM delivery_line WHERE delivery_id = ?', [$id])];
    }

    /** @return list<int> received-not-invoiced, invoiced-not-received, payables */
    private function books(): array
    {
        return array_map($this->balance(...), ['2110', '1420', '2100']);
    }

    public function testTwoClerksMatchTheSameLine(): void
    {
        [, $line] = $this->delivered($this->ordered());
        [$done, $refused] = $this->together('match', [$line, 8], [$line, 8]);
        self::assertSame('done', $done);
        self::assertStringStartsWith('refused: ', $refused);
        self::assertStringContainsString('2 are left', $refused);
        self::assertSame([-2500, 0, -10000], $this->books());
    }

    public function testADeliveryIsUndoneWhileItIsMatched(): void
    {
        [$delivery, $line] = $this->delivered($this->ordered());
        [$done, $refused] = $this->together(['undo', 'match'], [$delivery], [$line, 10]);
        self::assertSame('done', $done);
        self::assertMatchesRegularExpression('/^refused: .*(is taken back|take that back first)/s', $refused);
        self::assertContains($this->books(), [[0, 0, 0], [0, 0, -12500]]);
    }

    public function testTwoInvoicesWaitForTheSame(): void
    {
        $order = $this->ordered();
        [$done, $refused] = $this->together('await', [$order, 8], [$order, 8]);
        self::assertSame('done', $done);
        self::assertStringContainsString('still to come', $refused);
        self::assertSame([0, 10000, -10000], $this->books());
    }

    public function testAnInvoiceBeginsToWaitWhileItsGoodsCome(): void
    {
        $order = $this->ordered();
        $said = $this->together(['await', 'deliver'], [$order, 10], [$order, 10]);
        self::assertContains('done', $said);
        // either it waited first and is settled, or it came first and the invoice is to be matched with it
        self::assertContains($this->books(), [[0, 0, -12500], [-12500, 0, 0]]);
        self::assertSame(2 === \count(array_keys($said, 'done', true)), 0 !== $this->books()[2]);
    }

    public function testGoodsGoBackWhileTheyAreInvoiced(): void
    {
        [, $line] = $this->delivered($this->ordered());
        $said = $this->together(['back', 'match'], [$line, 6], [$line, 10]);
        // what went back first is not invoiced; what was invoiced first is claimed
        self::assertContains('done', $said);
        self::assertContains($this->books(), [[-5000, 0, 0], [0, 0, -5000]]);
    }
}
