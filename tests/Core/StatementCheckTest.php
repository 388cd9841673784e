<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Money\Currency;
use Nelbix\Core\OpenItems\StatementCheck;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** A vendor's statement against our open items. Source: common practice. */
final class StatementCheckTest extends TestCase
{
    /** @return iterable<array{string, list<array{string, int}>, int}> pasted, rows, problems */
    public static function pasted(): iterable
    {
        yield 'tabs, a heading, a total' => [
            "Number\tDate\tAmount\nA-1\t6/1/2026\t1,200.50\nA-2\t6/2/2026\t-30.00\n",
            [['A-1', 120050], ['A-2', -3000]],
            0,
        ];
        yield 'semicolons and currency' => ['INV 7;2026-06-01;USD 10.00', [['INV 7', 1000]], 0];
        yield 'csv' => ["number,amount\n\"B/9\",15.25\nB/10,1,015.25", [['B/9', 1525], ['B/10', 101525]], 0];
        yield 'single spaces' => ['4711 12.00', [['4711', 1200]], 0];
        yield 'brackets and a trailing minus' => ["C-1\t(5.00)\nC-2\t7.00-", [['C-1', -500], ['C-2', -700]], 0];
        yield 'decimal commas' => [
            "R-1\t2.600,00\nR-2\t12,50\nR-3\t-1.000.000,05",
            [['R-1', 260000], ['R-2', 1250], ['R-3', -100000005]],
            0,
        ];
        yield 'decimal commas by semicolons' => [
            "R-1;2026-06-01;2.600,00 EUR\nR-2;2026-06-01;600,00-",
            [['R-1', 260000], ['R-2', -60000]],
            0,
        ];
        yield 'decimal commas by a space' => ['4711 600,00', [['4711', 60000]], 0];
        yield 'a separator at the end of each line' => [
            "Nr;Datum;Betrag;\nR-1;01.04.2026;2.600,00;\nR-2;02.04.2026;-2.600,00;\nR-3;;(12,5);",
            [['R-1', 260000], ['R-2', -260000], ['R-3', -1250]],
            0,
        ];
        yield 'commas without thousands' => ['R-1;2600,00', [['R-1', 260000]], 0];
        yield 'thousands by a space' => ['R-1;2 600,00;', [['R-1', 260000]], 0];
        yield 'thousands by an apostrophe' => ["R-1;2'600.00", [['R-1', 260000]], 0];
        yield 'a year before the amount' => ['R-1 2026 120.00', [['R-1', 12000]], 0];
        yield 'a heading with a day' => ["Statement of 30.06.26\nR-1;12.00", [['R-1', 1200]], 0];
        yield 'commas between and within' => ['R-1,01.04.2026,2.600,00', [], 1];
        yield 'a dash for the cents' => ['R-1;2.600,-', [], 1];
        yield 'both ways' => ["R-1\t2.600,00\nR-2\t12.50", [], 1];
        yield 'an amount alone' => ['12.00', [], 1];
        yield 'nonsense' => ["hello\n\n???", [], 0];
    }

    /** @param list<array{string, int}> $expected */
    #[DataProvider('pasted')]
    public function testWhatIsPastedIsRead(string $pasted, array $expected, int $wrong): void
    {
        $problems = [];
        $rows = StatementCheck::read($pasted, Currency::of('USD'), $problems);
        self::assertSame($expected, array_map(static fn (array $r): array => [$r['number'], $r['amount']], $rows));
        self::assertCount($wrong, $problems);
    }

    public function testFourLists(): void
    {
        $check = StatementCheck::compare(
            [
                ['number' => 'A-001', 'amount' => 100],
                ['number' => 'a 2', 'amount' => 250],
                ['number' => 'X-9', 'amount' => 70],
                ['number' => 'P-1', 'amount' => 30],
                ['number' => 'P-1', 'amount' => 40],
            ],
            [
                ['id' => 1, 'number' => 'A1', 'open' => 100],
                ['id' => 2, 'number' => 'A-2', 'open' => 200],
                ['id' => 3, 'number' => 'OURS', 'open' => 50],
                ['id' => 4, 'number' => 'P1', 'open' => 35],
                ['id' => 5, 'number' => 'P1', 'open' => 35],
            ],
        );
        $numbers = static fn (array $rows): array => array_column($rows, 'number');
        self::assertSame(
            [['A-001', 'P-1'], ['a 2'], ['X-9'], ['OURS']],
            [$numbers($check->same), $numbers($check->different), $numbers($check->weLack), $numbers($check->theyLack)],
        );
        self::assertSame([4, 5], $check->same[1]['items'], 'instalments stand under one number');
    }

    /** Each number is in exactly one list, and the lists add up to both sides. */
    public function testNothingIsLost(): void
    {
        mt_srand(8);
        for ($n = 0; $n < 200; ++$n) {
            $theirs = $ours = [];
            for ($k = mt_rand(0, 12); $k > 0; --$k) {
                $theirs[] = ['number' => 'N'.mt_rand(1, 15), 'amount' => mt_rand(-500, 5000)];
                $ours[] = ['id' => $k, 'number' => 'N-0'.mt_rand(1, 15), 'open' => mt_rand(-500, 5000)];
            }
            $check = StatementCheck::compare($theirs, $ours);
            $all = [...$check->same, ...$check->different, ...$check->weLack, ...$check->theyLack];
            self::assertSame(
                [array_sum(array_column($theirs, 'amount')), array_sum(array_column($ours, 'open'))],
                [array_sum(array_column($all, 'theirs')), array_sum(array_column($all, 'ours'))],
            );
            $keys = array_map(static fn (array $r): string => StatementCheck::key($r['number']), $all);
            self::assertSame(array_values(array_unique($keys)), $keys);
        }
    }
}
