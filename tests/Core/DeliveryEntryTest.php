<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Ledger\Analysis;
use Nelbix\Core\Ledger\DeliveryEntry;
use Nelbix\Core\Money\Currency;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Goods received at order price. Source: rules.md, Journal entries; Money. */
final class DeliveryEntryTest extends TestCase
{
    private const CONTROL = 2110;

    /** @return iterable<string, array{string, string, string, int}> quantity, price, currency, minor units worked by hand */
    public static function values(): iterable
    {
        yield 'whole' => ['3', '12.50', 'USD', 3750];
        yield 'a broken quantity' => ['42.5', '18.40', 'USD', 78200];
        yield 'half a cent goes away from zero' => ['0.5', '0.01', 'USD', 1];
        yield 'just under half' => ['0.4999', '0.01', 'USD', 0];
        yield 'six decimals of price' => ['3', '0.333333', 'USD', 100];
        yield 'no minor unit' => ['2.5', '100.2', 'JPY', 251];
        yield 'three digits' => ['1.5', '0.0015', 'KWD', 2];
    }

    #[DataProvider('values')]
    public function testValue(string $quantity, string $price, string $currency, int $minor): void
    {
        self::assertSame(
            $minor,
            DeliveryEntry::value(BigDecimal::of($quantity), BigDecimal::of($price), Currency::of($currency)),
        );
    }

    /** Property: whatever the lines and the rate, the entry balances in both currencies and credits the control account whole. */
    public function testTheEntryBalances(): void
    {
        mt_srand(20260615);
        for ($round = 0; $round < 400; ++$round) {
            $lines = array_map(
                static fn (): array => [
                    'account' => 5000 + mt_rand(0, 3),
                    'amount' => mt_rand(1, 500_000),
                    'text' => 'goods',
                    'analysis' => new Analysis(mt_rand(0, 1) ? 7 : null),
                ],
                range(1, mt_rand(1, 7)),
            );
            $amount = array_sum(array_column($lines, 'amount'));
            $base = max(1, intdiv($amount * mt_rand(50, 200), 100));
            $draft = DeliveryEntry::draft(self::CONTROL, 3, 'GR-1', 'EUR', $lines, $base);
            self::assertSame(-$base, $draft->movementOn(self::CONTROL));
            self::assertSame(0, array_sum(array_map(static fn ($l): int => $l->base, $draft->lines)));
            self::assertSame(0, array_sum(array_map(static fn ($l): int => $l->amount, $draft->lines)));
            foreach ($draft->lines as $line) {
                self::assertSame(
                    self::CONTROL === $line->account ? 3 : null,
                    $line->party,
                    'the party stands on the control account only',
                );
            }
            // largest remainder: no line is further than a minor unit from its exact share
            foreach (DeliveryEntry::bases(array_column($lines, 'amount'), $base) as $k => $share) {
                self::assertLessThan($amount, abs($share * $amount - $lines[$k]['amount'] * $base));
            }
        }
    }

    public function testNothingOfValueHasNoBase(): void
    {
        self::assertSame([0, 0], DeliveryEntry::bases([0, 0], 0));
    }
}
