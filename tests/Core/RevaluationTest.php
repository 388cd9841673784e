<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Charges\RevaluedItem;
use Nelbix\Core\Charges\Revaluer;
use Nelbix\Core\Formats\Rates\EcbRates;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Rate;
use Nelbix\Core\Refused;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * Rates and revaluation. Sources: IAS 21, The Effects of Changes in Foreign Exchange Rates, paragraphs named at each case; the figures are
 * worked by hand from them.
 */
final class RevaluationTest extends TestCase
{
    /**
     * IAS 21.23 (a): monetary items at the closing rate; 21.28: the difference in profit or loss of the period.
     *
     * @return iterable<string, array{Side, int, int, string, int, int}> side, open EUR, base, closing rate, worth, gain
     */
    public static function closing(): iterable
    {
        yield 'a receivable whose currency rose' => [Side::Receivables, 100000, 110000, '1.15', 115000, 5000];
        yield 'a receivable whose currency fell' => [Side::Receivables, 100000, 110000, '1.05', 105000, -5000];
        yield 'a payable whose currency rose is a loss' => [Side::Payables, 100000, 110000, '1.15', 115000, -5000];
        yield 'a credit on a receivable' => [Side::Receivables, -20000, -22000, '1.15', -23000, -1000];
        yield 'part settled before: what is left, at what is left' => [
            Side::Receivables,
            60000,
            66000,
            '1.12',
            67200,
            1200,
        ];
        yield 'half a cent goes away from zero' => [Side::Payables, 3, 3, '1.5', 5, -2];
        yield 'nothing differs' => [Side::Payables, 100000, 110000, '1.10', 110000, 0];
    }

    #[DataProvider('closing')]
    public function testMonetaryItemsStandAtTheClosingRate(
        Side $side,
        int $open,
        int $base,
        string $rate,
        int $worth,
        int $gain,
    ): void {
        $item = new RevaluedItem(1, $side, 7, 3, 'EUR', $open, $base, BigDecimal::of($rate), 'USD');
        self::assertSame([$worth, $gain], [$item->worth, $item->gain()]);
        $entry = Revaluer::entry('USD', [$item], ['payables' => 21, 'receivables' => 12], 79);
        if (0 === $gain) {
            self::assertTrue($entry->isEmpty());

            return;
        }
        // a gain raises what is owed to the company, or lowers what it owes: a debit either way
        self::assertSame($gain, $entry->movementOn(Side::Payables === $side ? 21 : 12));
        self::assertSame(-$gain, $entry->movementOn(79));
    }

    /**
     * IAS 21.29: what is settled in a later period shows in each what the rate changed in it. Sold for EUR 1,000.00 at 1.10, closing 1.15,
     * paid at 1.12: 50.00 gained, then 30.00 lost; 20.00 in all, which is what is realised.
     */
    public function testThePeriodsAddUpToWhatIsRealised(): void
    {
        $item = new RevaluedItem(1, Side::Receivables, 7, 3, 'EUR', 100000, 110000, BigDecimal::of('1.15'), 'USD');
        $first = $item->gain();
        $realised = 112000 - 110000;
        self::assertSame([5000, -3000], [$first, -$first + $realised]);
    }

    public function testTheEntryHasALineForEachAccountAndCurrencyAndBalances(): void
    {
        mt_srand(21);
        for ($round = 0; $round < 50; ++$round) {
            $items = [];
            $gain = ['payables' => 0, 'receivables' => 0];
            $rates = array_map(static fn (): BigDecimal => BigDecimal::ofUnscaledValue(mt_rand(50, 30000), 4), [
                'EUR' => 1,
                'JPY' => 1,
                'KWD' => 1,
            ]);
            for ($n = mt_rand(1, 30); $n > 0; --$n) {
                $side = Side::cases()[mt_rand(0, 1)];
                $currency = array_rand($rates);
                $items[] = $item = new RevaluedItem(
                    $n,
                    $side,
                    mt_rand(1, 3),
                    1,
                    $currency,
                    mt_rand(-90000, 900000),
                    mt_rand(-90000, 900000),
                    $rates[$currency],
                    'USD',
                );
                $gain[$side->value] += $item->gain();
            }
            $entry = Revaluer::entry('USD', $items, ['payables' => 21, 'receivables' => 12], 79);
            self::assertSame($gain['payables'], $entry->movementOn(21));
            self::assertSame($gain['receivables'], $entry->movementOn(12));
            self::assertSame(0, array_sum(array_map(static fn (DraftLine $l): int => $l->base, $entry->lines)));
            shuffle($items);
            self::assertEquals(
                $entry,
                Revaluer::entry('USD', $items, ['payables' => 21, 'receivables' => 12], 79),
                'whatever the order',
            );
        }
    }

    /** Against one pivot: 1 EUR = 1.0850 USD = 0.8435 GBP, so 1 GBP = 1.0850 / 0.8435 = 1.2863070539 USD (by hand). */
    public function testCrossRates(): void
    {
        $units = [
            'USD' => BigDecimal::of('1.0850'),
            'GBP' => BigDecimal::of('0.8435'),
            'JPY' => BigDecimal::of('161.40'),
        ];
        $text = static fn (array $rates): array => array_map('strval', $rates);
        self::assertSame(
            ['GBP' => '1.2863070539', 'JPY' => '0.0067224287', 'EUR' => '1.085'],
            $text(Rate::into('USD', 'EUR', $units)),
        );
        self::assertSame(
            ['USD' => '0.9216589862', 'GBP' => '1.1855364552', 'JPY' => '0.0061957869'],
            $text(Rate::into('EUR', 'EUR', $units)),
        );
        self::assertSame([], Rate::into('CHF', 'EUR', $units), 'without the base nothing can be worked out');
    }

    /** The layout as published: an envelope, a cube of days, a cube for each currency. */
    public function testReferenceRatesAreRead(): void
    {
        $xml = <<<'XML'
        <?xml version="1.0" encoding="UTF-8"?>
        <gesmes:Envelope xmlns:gesmes="http://www.gesmes.org/xml/2002-08-01" xmlns="http://www.ecb.int/vocabulary/2002-08-01/eurofxref">
          <gesmes:subject>Reference rates</gesmes:subject>
          <gesmes:Sender><gesmes:name>European Central Bank</gesmes:name></gesmes:Sender>
          <Cube>
            <Cube time="2026-06-12"><Cube currency="USD" rate="1.1120"/><Cube currency="JPY" rate="161.40"/></Cube>
            <Cube time="2026-06-11"><Cube currency='USD' rate='1.1101'/></Cube>
          </Cube>
        </gesmes:Envelope>
        XML;
        $days = EcbRates::read($xml);
        self::assertSame(['2026-06-11', '2026-06-12'], array_keys($days));
        self::assertSame(['USD' => '1.1120', 'JPY' => '161.40'], array_map('strval', $days['2026-06-12']));
        self::assertEquals(
            $days['2026-06-12'],
            EcbRates::read(EcbRates::write(Day::of('2026-06-12'), $days['2026-06-12']))['2026-06-12'],
        );
    }

    /** @return iterable<string, array{string}> */
    public static function wrongFiles(): iterable
    {
        $file = static fn (
            string $cubes,
        ): string => '<gesmes:Envelope xmlns:gesmes="http://www.gesmes.org/xml/2002-08-01" '.
            'xmlns="http://www.ecb.int/vocabulary/2002-08-01/eurofxref"><Cube>'.
            $cubes.
            '</Cube></gesmes:Envelope>';
        yield 'no XML' => ['date,USD'];
        yield 'a document type' => ['<!DOCTYPE x [<!ENTITY a "b">]>'.$file('')];
        yield 'no days' => [$file('')];
        yield 'a day twice' => [$file('<Cube time="2026-06-12"/><Cube time="2026-06-12"/>')];
        yield 'no such day' => [$file('<Cube time="2026-02-30"><Cube currency="USD" rate="1"/></Cube>')];
        yield 'no rate' => [$file('<Cube time="2026-06-12"><Cube currency="USD" rate="N/A"/></Cube>')];
        yield 'a rate of zero' => [$file('<Cube time="2026-06-12"><Cube currency="USD" rate="0.0"/></Cube>')];
        yield 'a rate below zero' => [$file('<Cube time="2026-06-12"><Cube currency="USD" rate="-1"/></Cube>')];
        yield 'a currency twice' => [
            $file('<Cube time="2026-06-12"><Cube currency="USD" rate="1"/><Cube currency="USD" rate="2"/></Cube>'),
        ];
    }

    #[DataProvider('wrongFiles')]
    public function testWhatIsNoFileOfRatesIsRefused(string $xml): void
    {
        $this->expectException(Refused::class);
        EcbRates::read($xml);
    }
}
