<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Platform\Settings;

/** Ordered, received and invoiced in one step, by whoever may do all three; or nothing of it. */
final class BuyAtOnceTest extends ScreenCase
{
    /**
     * @param array<string, string> $paper
     * @param array<string, mixed> $more
     */
    private function buy(array $paper = [], array $more = []): string
    {
        $page = $this->post('/TEST/orders/new', '/TEST/orders/at-once', [
            'party' => 'V-1',
            'ordered_on' => self::DAY,
            'lines' => [
                ['account' => '1400', 'text' => 'oak', 'quantity' => '4', 'price' => '12.50', 'tax_code' => 'P8'],
                ['account' => '5100', 'text' => 'sawing', 'quantity' => '2', 'price' => '30', 'kind' => 'service'],
            ],
            'at_once' => ['number' => 'F-1', 'date' => self::DAY, 'note' => 'N-1', ...$paper],
            ...$more,
        ]);

        return $page->filter('main')->text();
    }

    private function rows(string $table): int
    {
        return (int) $this->db()->fetchOne("SELECT COUNT(*) FROM $table");
    }

    public function testAllOfItInOneStep(): void
    {
        self::assertStringContainsString(
            'Ordered, received and posted as VI-26-00001. Payables rose by 114.00 USD.',
            $this->buy(['total' => '114.00']),
        );
        self::assertSame(
            [5000, 6000, 400, 0, -11400],
            array_map($this->balance(...), ['1400', '5100', '1300', '2110', '2100']),
        );
        self::assertSame([1, 2, 1], [$this->rows('purchase_order'), $this->rows('delivery'), $this->rows('document')]);
        self::assertSame(
            '0',
            (string) $this->db()->fetchOne(
                'SELECT COUNT(*) FROM purchase_order_line WHERE received <> quantity OR invoiced <> quantity',
            ),
        );
    }

    public function testOrNothingOfIt(): void
    {
        self::assertStringContainsString('mend a line or the total', $this->buy(['total' => '115.00']));
        self::assertStringContainsString('Their number is missing', $this->buy(['number' => '']));
        self::assertStringContainsString('still to come; say when it came', $this->buy(['came_on' => '2026-07-01']));
        self::get(Settings::class)->keep($this->clerk->companyId, ['order_approval_above' => '100']);
        self::assertStringContainsString('awaits approval before anything is taken', $this->buy());
        self::get(Settings::class)->keep($this->clerk->companyId, [
            'order_approval_above' => '5000',
            'match_apart' => 'yes',
        ]);
        self::assertStringContainsString('somebody else matches its invoice', $this->buy());
        self::assertSame([0, 0, 0], [$this->rows('purchase_order'), $this->rows('delivery'), $this->rows('document')]);
    }

    /** What an invoice would be asked is asked here too, and can be answered. */
    public function testItIsAskedWhetherItIsAnotherOne(): void
    {
        $this->buy();
        $asked = $this->buy(['number' => 'F-2']);
        self::assertStringContainsString('It looks like VI-26-00001', $asked);
        self::assertStringContainsString('It is another one, because', $asked);
        self::assertStringContainsString(
            'posted as VI-26-00002',
            $this->buy(['number' => 'F-2', 'reason' => 'the second half']),
        );
        $far = ['number' => 'F-3', 'date' => '2024-06-10', 'came_on' => self::DAY, 'reason' => 'the third'];
        self::assertStringContainsString('This day is meant', $this->buy($far));
        self::assertSame(2, $this->rows('purchase_order'));
    }

    public function testWhoMayNotDoAllThreeIsNotOffered(): void
    {
        self::assertCount(1, $this->page('/TEST/orders/new')->filter('button[formaction$="/orders/at-once"]'));
        $this->as('buyer');
        self::assertCount(0, $this->page('/TEST/orders/new')->filter('button[formaction$="/orders/at-once"]'));
        $this->buy();
        self::assertSame(403, $this->browser->getResponse()->getStatusCode());
        self::assertSame(0, $this->rows('purchase_order'));
    }
}
