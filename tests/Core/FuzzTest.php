<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Aging\Ager;
use Nelbix\Core\Aging\AgingSum;
use Nelbix\Core\Aging\Bucketing;
use Nelbix\Core\Aging\Credits;
use Nelbix\Core\Calendar\DateInput;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Csv;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Refused;
use Nelbix\Core\Terms\PaymentTerm;
use Nelbix\Core\Terms\TermDates;
use Nelbix\Core\TieOut\Movement;
use Nelbix\Core\TieOut\TieOut;
use PHPUnit\Framework\TestCase;

/** Seeded mutations and random inputs: each is understood or refused with a reason, nothing else happens. */
final class FuzzTest extends TestCase
{
    private static function mutate(string $text): string
    {
        for ($n = mt_rand(1, 6); $n > 0; --$n) {
            $at = mt_rand(0, max(0, \strlen($text) - 1));
            $text = match (mt_rand(0, 4)) {
                0 => substr($text, 0, $at).\chr(mt_rand(0, 255)).substr($text, $at),
                1 => substr($text, 0, $at).substr($text, $at + mt_rand(1, 5)),
                2 => substr($text, 0, $at).
                    ['"', ',', ';', "\n", "\r", "\xEF\xBB\xBF", "\0", '=', '-'][mt_rand(0, 8)].
                    substr($text, $at),
                3 => $text.substr($text, $at),
                default => strrev(substr($text, 0, $at)).substr($text, $at),
            };
        }

        return $text;
    }

    public function testCsv(): void
    {
        mt_srand(11);
        $good = "party,number,amount\nV-1,\"a \"\"quoted\"\" one\",10.00\nV-2,x,20.00\n";
        $taken = 0;
        for ($n = 0; $n < 1500; ++$n) {
            try {
                foreach (Csv::read(self::mutate($good), ['party', 'number', 'amount'], ['text']) as $row) {
                    self::assertSame(['party', 'number', 'amount', 'text'], array_keys($row['row']));
                    self::assertGreaterThan(1, $row['line']);
                }
                ++$taken;
            } catch (Refused $e) {
                self::assertNotSame('', $e->problems[0]->message);
            }
        }
        self::assertGreaterThan(50, $taken, 'some mutations leave a good file');
        self::assertLessThan(1450, $taken);
    }

    public function testTypedAmountsAndDates(): void
    {
        mt_srand(12);
        $dates = new DateInput(Day::of('2026-06-15'));
        $usd = Currency::of('USD');
        $understood = 0;
        for ($n = 0; $n < 3000; ++$n) {
            $typed = '';
            for ($k = mt_rand(1, 9); $k > 0; --$k) {
                $typed .= '0123456789.,+-*/() e'[mt_rand(0, 19)];
            }
            foreach ([static fn () => AmountInput::read($typed, $usd), static fn () => $dates->read($typed)] as $read) {
                try {
                    $read();
                    ++$understood;
                } catch (Refused $e) {
                    self::assertCount(1, $e->problems);
                }
            }
        }
        self::assertGreaterThan(100, $understood);
    }

    public function testTermsOnAnyDay(): void
    {
        mt_srand(13);
        for ($n = 0; $n < 400; ++$n) {
            $spec = [
                'net' => ['0', '30', '+1m', '+1m15', '+2m31'][mt_rand(0, 4)],
                'discounts' => ['', '2@10', '3@5 1@+1m10'][mt_rand(0, 2)],
                'instalments' => ['', '50@30 50@60', '33.3@10 33.3@20 33.4@+1m'][mt_rand(0, 2)],
                'windows' => ['', '1-15:+1m10 16-31:+2m10', '1-31:+0m31'][mt_rand(0, 2)],
            ];
            $document = Day::of('2024-01-01')->plusDays(mt_rand(0, 1500));
            $total = mt_rand(-500000, 9000000);
            $parts = PaymentTerm::fromSpec($spec)->schedule(new TermDates($document, $document), $total, $total);
            self::assertSame($total, array_sum(array_map(static fn ($p): int => $p->amount, $parts)));
            self::assertSame($total, array_sum(array_map(static fn ($p): int => $p->discountBase, $parts)));
            foreach ($parts as $part) {
                self::assertFalse($part->due->isBefore($document->plusDays(-31)));
                $last = '';
                foreach ($part->discounts as $discount) {
                    self::assertGreaterThanOrEqual($last, $discount->through->iso());
                    $last = $discount->through->iso();
                }
            }
        }
    }

    /** What goes into an aging comes out of it, in every mode. */
    public function testAgingKeepsTheSum(): void
    {
        mt_srand(14);
        for ($round = 0; $round < 50; ++$round) {
            $sums = [];
            $total = 0;
            for ($n = 0; $n < 60; ++$n) {
                $amount = mt_rand(-90000, 900000);
                $total += $amount;
                $sums[] = new AgingSum(
                    mt_rand(1, 8),
                    Day::of('2026-06-15')->plusDays(mt_rand(-200, 60))->iso(),
                    [AgingSum::ITEM, AgingSum::CREDIT, AgingSum::PREPAYMENT][mt_rand(0, 2)],
                    $amount,
                );
            }
            foreach (Credits::cases() as $netted) {
                $rows = Ager::age($sums, Day::of('2026-06-15'), new Bucketing([10, 45, 120]), $netted);
                self::assertSame($total, array_sum(array_map(static fn ($r): int => $r->total(), $rows)));
            }
        }
    }

    /** The explanations add up to the difference, whatever moved. */
    public function testTieOutExplainsTheWholeDifference(): void
    {
        mt_srand(15);
        for ($round = 0; $round < 100; ++$round) {
            $movements = [];
            $ledger = $items = 0;
            for ($n = mt_rand(0, 20); $n > 0; --$n) {
                $m = new Movement(
                    'X-'.$n,
                    '2026-06-'.\sprintf('%02d', mt_rand(1, 28)),
                    mt_rand(-5, 5) * 100,
                    mt_rand(-5, 5) * 100,
                    0 === mt_rand(0, 3),
                    hasEntry: (bool) mt_rand(0, 1),
                    hasItem: (bool) mt_rand(0, 1),
                );
                $movements[] = $m;
                $ledger += $m->ledger;
                $items += $m->items;
            }
            $tie = TieOut::of($ledger, $items, $movements);
            self::assertSame(
                $tie->difference(),
                array_sum(array_map(static fn ($e): int => $e->amount, $tie->explainedBy)),
            );
            self::assertSame(0 === $tie->difference(), null === $tie->breakDay);
            self::assertSame($tie->difference(), [] === $tie->byDay ? 0 : $tie->byDay[array_key_last($tie->byDay)]);
            self::assertEquals(
                $tie,
                TieOut::of($ledger, $items, array_reverse($movements)),
                'the order does not matter',
            );
        }
    }
}
