<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Ledger\Analysis;
use Nelbix\Core\Ledger\Cleared;
use Nelbix\Core\Ledger\DeliveryEntry;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Matching\Accrued;
use Nelbix\Core\Matching\ArrivalEntry;
use Nelbix\Core\Matching\Compared;
use Nelbix\Core\Matching\MoreThanThere;
use Nelbix\Core\Matching\Over;
use Nelbix\Core\Matching\ThreeWayMatch;
use Nelbix\Core\Matching\Tolerance;
use Nelbix\Core\Matching\Tolerances;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Tax\TaxCalculator;
use Nelbix\Core\Tax\TaxCode;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Source: rules.md, Matching. */
final class MatchingTest extends TestCase
{
    private const CONTROL = 1;
    private const LINE = 2;
    private const INPUT = 3;
    private const ACCRUED = 4;
    private const VARIANCE = 5;
    private const EXCHANGE = 6;

    /** @return iterable<string, array{string, int, string, string, int}> there, its value, price, taken, minor units; worked by hand */
    public static function taken(): iterable
    {
        yield 'rules.md: 8 of 10 at 12.50' => ['10', 12500, '12.50', '8', 10000];
        yield 'all of it' => ['10', 12500, '12.50', '10', 12500];
        yield 'a third of three at a third of a cent' => ['3', 1, '0.003333', '1', 0];
        yield 'the last takes what is left of 1.00 in 3 × 0.333333' => ['1', 34, '0.333333', '1', 34];
        yield 'never more than is left' => ['2', 1, '0.01', '1.5', 1];
    }

    #[DataProvider('taken')]
    public function testWhatAQuantityStandsFor(
        string $there,
        int $value,
        string $price,
        string $taken,
        int $minor,
    ): void {
        $accrued = new Accrued(BigDecimal::of($there), $value, $value);
        $part = $accrued->take(BigDecimal::of($taken), BigDecimal::of($price), Currency::of('USD'));
        self::assertSame([$minor, $minor], [$part->amount, $part->base]);
    }

    public function testMoreThanThereIsIsRefused(): void
    {
        $this->expectException(MoreThanThere::class);
        (new Accrued(BigDecimal::of('2'), 200, 200))->take(
            BigDecimal::of('2.0001'),
            BigDecimal::of('1'),
            Currency::of('USD'),
        );
    }

    /** Property: whatever the parts, they never go below zero and add up to what was accrued, in both currencies. */
    public function testPartsAddUp(): void
    {
        mt_srand(13);
        for ($n = 0; $n < 500; ++$n) {
            $quantity = BigDecimal::ofUnscaledValue(mt_rand(1, 900_000), 4);
            $price = BigDecimal::ofUnscaledValue(mt_rand(1, 9_000_000), 6);
            $value = DeliveryEntry::value($quantity, $price, Currency::of('EUR'));
            $left = new Accrued($quantity, $value, intdiv($value * mt_rand(50, 200), 100));
            [$amount, $base] = [$left->amount, $left->base];
            while ($left->quantity->isPositive()) {
                $all = $left->quantity->getUnscaledValue()->toInt();
                $part = $left->take(BigDecimal::ofUnscaledValue(mt_rand(1, $all), 4), $price, Currency::of('EUR'));
                self::assertGreaterThanOrEqual(0, $part->amount);
                self::assertGreaterThanOrEqual(0, $part->base);
                $left = $left->less($part);
                self::assertGreaterThanOrEqual(0, $left->amount);
                self::assertGreaterThanOrEqual(0, $left->base);
                [$amount, $base] = [$amount - $part->amount, $base - $part->base];
            }
            self::assertSame([0, 0, 0, 0], [$left->amount, $left->base, $amount, $base]);
        }
    }

    /**
     * An invoice of one line that clears what was accrued.
     *
     * @return array<int, int> ledger sign by account, base minor units
     */
    private static function entry(int $net, ?TaxCode $code, Cleared $cleared, string $currency, string $rate): array
    {
        $tax = TaxCalculator::compute([['amount' => $net, 'code' => $code]], [], 0);
        $draft = InvoiceEntry::draft(
            Side::Payables,
            1,
            self::CONTROL,
            9,
            'V-1',
            $currency,
            [['account' => self::LINE, 'text' => 'oak', 'analysis' => new Analysis(), 'cleared' => $cleared]],
            $tax,
            null === $code ? [] : [$code->code => ['input' => self::INPUT, 'output' => self::INPUT]],
            InvoiceEntry::base($tax->total(), $currency, 'USD', $rate),
        );
        self::balances($draft);

        return array_filter(
            array_combine(
                $all = [self::CONTROL, self::LINE, self::INPUT, self::ACCRUED, self::VARIANCE, self::EXCHANGE],
                array_map($draft->movementOn(...), $all),
            ),
        );
    }

    private static function balances(JournalDraft $draft): void
    {
        self::assertSame(0, array_sum(array_map(static fn (DraftLine $l): int => $l->amount, $draft->lines)));
        foreach ($draft->lines as $line) {
            self::assertSame(
                \in_array($line->account, [self::CONTROL, self::ACCRUED], true) ? 9 : null,
                $line->party,
                'the party stands on control accounts only',
            );
        }
    }

    public function testTheWorkedExample(): void
    {
        // rules.md: 8 of 10 received at 12.50, 8 invoiced at 12.90 with 8 % tax
        self::assertSame(
            [self::CONTROL => -11146, self::INPUT => 826, self::ACCRUED => 10000, self::VARIANCE => 320],
            self::entry(
                10320,
                new TaxCode('T', BigDecimal::of('8')),
                new Cleared(self::ACCRUED, 10000, 10000, self::VARIANCE, self::EXCHANGE),
                'USD',
                '1',
            ),
        );
    }

    /**
     * Purchases of a textbook: what was received at the standard price, what the invoice says, and the price variance, + unfavourable.
     *
     * @return iterable<string, array{string, string, string, int, int, int}> quantity, standard and actual price, in cents what was
     *                                                                        accrued and invoiced, and the variance
     */
    public static function textbooks(): iterable
    {
        // Horngren, Datar, Rajan: Cost Accounting, a Managerial Emphasis; chapter 7, Webb Company, journal entry 1a (from memory)
        yield 'Webb, square yards of cloth' => ['22200', '30', '28', 66_600_000, 62_160_000, -4_440_000];
        // Garrison, Noreen, Brewer: Managerial Accounting; chapter 10, Colonial Pewter, pounds of pewter (from memory)
        yield 'Colonial Pewter, pounds of pewter' => ['6500', '4.00', '3.80', 2_600_000, 2_470_000, -130_000];
    }

    #[DataProvider('textbooks')]
    public function testTheExamplesOfTextbooks(
        string $quantity,
        string $standard,
        string $actual,
        int $accrued,
        int $invoiced,
        int $variance,
    ): void {
        $usd = Currency::of('USD');
        $came = new Accrued(
            BigDecimal::of($quantity),
            DeliveryEntry::value(BigDecimal::of($quantity), BigDecimal::of($standard), $usd),
            DeliveryEntry::value(BigDecimal::of($quantity), BigDecimal::of($standard), $usd),
        );
        self::assertSame($accrued, $came->amount);
        $net = DeliveryEntry::value(BigDecimal::of($quantity), BigDecimal::of($actual), $usd);
        self::assertSame($invoiced, $net);
        $part = $came->take(BigDecimal::of($quantity), BigDecimal::of($standard), $usd);
        $cleared = new Cleared(self::ACCRUED, $part->amount, $part->base, self::VARIANCE, self::EXCHANGE);
        self::assertSame(
            [self::CONTROL => -$invoiced, self::ACCRUED => $accrued, self::VARIANCE => $variance],
            self::entry($net, null, $cleared, 'USD', '1'),
        );
    }

    public function testAVarianceMayGoBackToTheLine(): void
    {
        self::assertSame(
            [self::CONTROL => -9500, self::LINE => -500, self::ACCRUED => 10000],
            self::entry(9500, null, new Cleared(self::ACCRUED, 10000, 10000, self::LINE, self::EXCHANGE), 'USD', '1'),
        );
    }

    public function testTaxThatIsNotRecoverableStaysWithTheLine(): void
    {
        // 100.00 accrued, invoiced at 100.00 with 20 % of which half is recoverable: 10.00 more of cost, no variance
        self::assertSame(
            [self::CONTROL => -12000, self::LINE => 1000, self::INPUT => 1000, self::ACCRUED => 10000],
            self::entry(
                10000,
                new TaxCode('T', BigDecimal::of('20'), recoverablePercent: BigDecimal::of('50')),
                new Cleared(self::ACCRUED, 10000, 10000, self::VARIANCE, self::EXCHANGE),
                'USD',
                '1',
            ),
        );
    }

    public function testGoodsThatComeAfterTheirInvoice(): void
    {
        // rules.md, the worked example the other way round: 8 invoiced at 12.90 first, then 8 received at 12.50
        $eight = BigDecimal::of(8);
        $accounts = [self::ACCRUED, self::CONTROL, self::VARIANCE, self::EXCHANGE];
        $part = [
            'received' => self::ACCRUED,
            'accrued' => new Accrued($eight, 10_000, 10_000),
            'awaited' => self::CONTROL,
            'invoiced' => new Accrued($eight, 10_320, 10_320),
            'variance' => self::VARIANCE,
            'exchange' => self::EXCHANGE,
            'text' => '',
            'analysis' => new Analysis(),
        ];
        $draft = ArrivalEntry::draft(9, 'USD', [$part]);
        self::balances($draft);
        self::assertSame([10_000, -10_320, 320, 0], array_map($draft->movementOn(...), $accounts));
        // 100.00 EUR accrued at 1.2, 105.00 invoiced at 1.1: variance 5.00 at 1.1; the rate made −10.00 of the rest (from memory)
        $draft = ArrivalEntry::draft(9, 'EUR', [
            [
                ...$part,
                'accrued' => new Accrued($eight, 10_000, 12_000),
                'invoiced' => new Accrued($eight, 10_500, 11_550),
            ],
        ]);
        self::balances($draft);
        self::assertSame([12_000, -11_550, 550, -1_000], array_map($draft->movementOn(...), $accounts));
    }

    public function testSharesOfWhatIsAwaitedAddUp(): void
    {
        $whole = new Accrued(BigDecimal::of('3'), 1_000, 1_001);
        $sum = [0, 0];
        foreach ([333, 334, 333] as $amount) {
            $part = $whole->share(BigDecimal::one());
            self::assertSame($amount, $part->amount);
            $whole = $whole->less($part);
            $sum = [$sum[0] + $part->amount, $sum[1] + $part->base];
        }
        self::assertSame([1_000, 1_001], $sum);
        $this->expectException(MoreThanThere::class);
        $whole->share(BigDecimal::one());
    }

    public function testWhatTheRateMadeOfItIsAnExchangeDifference(): void
    {
        // 100.00 EUR accrued at 1.10, invoiced at 104.00 when the rate is 1.08: 112.32 owed, 4.00 × 1.08 variance, 2.00 gain
        self::assertSame(
            [self::CONTROL => -11232, self::ACCRUED => 11000, self::VARIANCE => 432, self::EXCHANGE => -200],
            self::entry(
                10400,
                null,
                new Cleared(self::ACCRUED, 10000, 11000, self::VARIANCE, self::EXCHANGE),
                'EUR',
                '1.08',
            ),
        );
    }

    /** @return iterable<string, array{?string, ?string, string, string, bool}> percent, fixed, agreed, actual */
    public static function bounds(): iterable
    {
        yield 'the narrower holds: 2 % of 12.50 is 0.25, 0.10 each' => ['2', '0.10', '12.50', '12.61', false];
        yield 'just at the narrower' => ['2', '0.10', '12.50', '12.60', true];
        yield 'just at the percent' => ['2', null, '12.50', '12.75', true];
        yield 'just over the percent' => ['2', null, '12.50', '12.7501', false];
        yield 'less is never over' => ['0', '0', '12.50', '11', true];
        yield 'nothing on top' => ['0', null, '12.50', '12.500001', false];
        yield 'no bound' => [null, null, '1', '1000', true];
    }

    #[DataProvider('bounds')]
    public function testBounds(?string $percent, ?string $fixed, string $agreed, string $actual, bool $allowed): void
    {
        $of = static fn (?string $n): ?BigDecimal => null === $n ? null : BigDecimal::of($n);
        self::assertSame(
            $allowed,
            (new Tolerance($of($percent), $of($fixed)))->allows(BigDecimal::of($agreed), BigDecimal::of($actual)),
        );
    }

    public function testEachReasonIsNamed(): void
    {
        $n = BigDecimal::of(...);
        $within = new Tolerances(new Tolerance($n('2'), null), new Tolerance($n('0'), $n('1')), $n('5.00'));
        self::assertSame(
            [
                ['key' => 'a', 'over' => Over::Price],
                ['key' => 'b', 'over' => Over::Quantity],
                ['key' => 'c', 'over' => Over::NotOrdered],
                ['key' => 'd', 'over' => Over::NotReceived],
                ['key' => null, 'over' => Over::Total],
            ],
            ThreeWayMatch::over(
                [
                    new Compared('a', $n('12.50'), $n('12.90'), $n('10'), $n('8'), true, $n('3.20')),
                    new Compared('b', $n('12.50'), $n('12.50'), $n('10'), $n('10.5'), true, $n('0')),
                    new Compared('c', null, $n('4'), null, $n('1'), true, $n('1.00')),
                    new Compared('d', $n('2'), $n('2.04'), $n('50'), $n('50'), false, $n('0.81')),
                ],
                $within,
                true,
            ),
            'no more than nothing of the quantity: the narrower of 0 % and 1 unit',
        );
    }

    public function testAVendorsOwnBoundsHoldEachByItself(): void
    {
        $n = BigDecimal::of(...);
        $own = new Tolerances(new Tolerance($n('5'), null), new Tolerance(null, null), null);
        $company = new Tolerances(new Tolerance($n('2'), $n('1')), new Tolerance($n('0'), null), $n('5'));
        $both = $company->overriddenBy($own);
        self::assertEquals(
            [new Tolerance($n('5'), $n('1')), new Tolerance($n('0'), null), $n('5')],
            [$both->price, $both->quantity, $both->total],
        );
    }
}
