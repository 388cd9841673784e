<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Pairing\Filter;
use Nelbix\Core\Pairing\Outcome;
use Nelbix\Core\Pairing\Pair;
use Nelbix\Core\Pairing\Row;
use Nelbix\Core\Pairing\RowPairer;
use Nelbix\Core\Pairing\Rows;
use Nelbix\Core\Pairing\Rule;
use PHPUnit\Framework\TestCase;

/** Two lists by rules, against counting everything out. Source: rules.md, Pairing. */
final class RowPairerTest extends TestCase
{
    /** @param array<string, string> $fields */
    private static function row(int $id, int $amount, int $day = 1, array $fields = []): Row
    {
        return new Row($id, $amount, Day::of('2026-06-01')->plusDays($day - 1), $fields);
    }

    /** @return list<string> pairs as "1+2=3", in order */
    private static function said(Outcome $outcome): array
    {
        $said = array_map(
            static fn (Pair $p): string => implode('+', $p->left).
                '='.
                implode('+', $p->right).
                (0 === $p->difference ? '' : ' '.$p->difference),
            $outcome->pairs,
        );
        sort($said);

        return $said;
    }

    public function testOneToOneByNumberWithADifference(): void
    {
        $left = [
            self::row(1, 1_000, 1, ['ref' => 'RI-26-004']),
            self::row(2, 500, 1, ['ref' => '77']),
            self::row(3, 9),
        ];
        $right = [
            self::row(7, 1_005, 3, ['ref' => 'ri 26 004']),
            self::row(8, 500, 9, ['ref' => '0077']),
            self::row(9, 9),
        ];
        $rule = new Rule(1, agree: ['ref'], percentWithin: BigDecimal::of(1), daysWithin: 2);
        $outcome = RowPairer::pair($left, $right, [$rule]);
        self::assertSame(['1=7 5'], self::said($outcome));
        self::assertSame([[2, 3], [8, 9]], [$outcome->left, $outcome->right], 'what has no number agrees with nothing');
        // a rule sees what no earlier one took
        $outcome = RowPairer::pair($left, $right, [$rule, new Rule(2)]);
        self::assertSame(['1=7 5', '2=8', '3=9'], self::said($outcome));
        self::assertSame([1, 2, 2], array_map(static fn (Pair $p): int => $p->rule, $outcome->pairs));
    }

    public function testSoleAndNearest(): void
    {
        $left = [self::row(1, 1_000, 1), self::row(2, 1_000, 5)];
        $right = [self::row(7, 1_000, 2), self::row(8, 1_000, 9)];
        self::assertSame([], self::said(RowPairer::pair($left, $right, [new Rule(1, sole: true)])));
        self::assertSame(['1=7', '2=8'], self::said(RowPairer::pair($left, $right, [new Rule(1)])));
        // 5 is three days from 2 and from 8: nothing is nearer, so nobody decides
        $tied = RowPairer::pair(
            [self::row(2, 1_000, 5)],
            [self::row(7, 1_000, 2), self::row(8, 1_000, 8)],
            [new Rule(1)],
        );
        self::assertSame([[], [2], [7, 8]], [self::said($tied), $tied->tiedLeft, $tied->tiedRight]);
        // the nearest amount comes before the nearest day
        $near = RowPairer::pair(
            [self::row(1, 1_000, 1)],
            [self::row(7, 1_001, 1), self::row(8, 1_000, 9)],
            [new Rule(1, amountWithin: 5)],
        );
        self::assertSame(['1=8'], self::said($near));
    }

    /** Two here and two there that nobody can tell apart are one pair; source: common practice. */
    public function testTwinsPairTogether(): void
    {
        $left = [self::row(1, 1_000, 1), self::row(2, 1_000, 1)];
        $right = [self::row(7, 1_003, 4), self::row(8, 1_003, 4)];
        $rule = new Rule(1, amountWithin: 5, daysWithin: 3);
        self::assertSame(['1+2=7+8 6'], self::said(RowPairer::pair($left, $right, [$rule])));
        // two against three, or one of another day as near: a tie
        $three = RowPairer::pair($left, [...$right, self::row(9, 1_003, 4)], [$rule]);
        self::assertSame([[], [1, 2], [7, 8, 9]], [self::said($three), $three->tiedLeft, $three->tiedRight]);
        $apart = RowPairer::pair([self::row(1, 1_000, 1), self::row(2, 1_000, 7)], $right, [$rule]);
        self::assertSame([], self::said($apart), 'each of the two is as near, and they are not alike');
        $another = RowPairer::pair(
            [self::row(1, 1_000, 4), self::row(2, 1_000, 4)],
            [self::row(7, 1_000, 1), self::row(8, 1_000, 1), self::row(9, 1_000, 7)],
            [new Rule(1)],
        );
        self::assertSame([], self::said($another), 'a third is as near');
        $unlike = RowPairer::pair(
            [self::row(1, 1_000), self::row(2, 1_006)],
            [self::row(7, 1_003), self::row(8, 1_003)],
            [new Rule(1, amountWithin: 5)],
        );
        self::assertSame([], self::said($unlike), 'one is above and one below');
        // what is to be sole is not
        self::assertSame([], self::said(RowPairer::pair($left, $right, [new Rule(1, amountWithin: 5, sole: true)])));
    }

    /** The day and the amount are fields like the others: what is to agree in them does, to the day and to the cent, with its sign. */
    public function testDayAndAmountMayHaveToAgree(): void
    {
        $left = [self::row(1, 1_000, 1), self::row(2, 500, 2), self::row(3, -700, 3)];
        $right = [self::row(7, 1_000, 2), self::row(8, 501, 2), self::row(9, 700, 3)];
        $day = new Rule(1, agree: ['date'], amountWithin: 2_000);
        self::assertSame(['2=8 1', '3=9 1400'], self::said(RowPairer::pair($left, $right, [$day])));
        $amount = new Rule(1, agree: ['amount'], amountWithin: 2_000);
        self::assertSame(['1=7'], self::said(RowPairer::pair($left, $right, [$amount])));
    }

    public function testAnyNumberTakesTheWholeElseTheOneSubset(): void
    {
        $right = [
            self::row(7, 300, 1, ['r' => 'A']),
            self::row(8, 700, 1, ['r' => 'A']),
            self::row(9, 50, 1, ['r' => 'A']),
        ];
        $rule = new Rule(1, right: Rows::Any, agree: ['r']);
        self::assertSame(
            ['1=7+8+9'],
            self::said(RowPairer::pair([self::row(1, 1_050, 1, ['r' => 'a'])], $right, [$rule])),
        );
        self::assertSame(
            ['1=7+8'],
            self::said(RowPairer::pair([self::row(1, 1_000, 1, ['r' => 'a'])], $right, [$rule])),
        );
        $two = [...$right, self::row(10, 300, 1, ['r' => 'A'])];
        $tied = RowPairer::pair([self::row(1, 1_000, 1, ['r' => 'a'])], $two, [$rule]);
        self::assertSame([[], [1]], [self::said($tied), $tied->tiedLeft], 'two subsets fit');
        // two that want the same whole
        $rivals = [self::row(1, 1_050, 1, ['r' => 'a']), self::row(2, 1_050, 1, ['r' => 'a'])];
        self::assertSame([], self::said(RowPairer::pair($rivals, $right, [$rule])));
        // and from the other side
        $turned = new Rule(1, left: Rows::Any, agree: ['r'], amountWithin: 1);
        self::assertSame(
            ['7+8=1 1'],
            self::said(RowPairer::pair($right, [self::row(1, 1_001, 1, ['r' => 'a'])], [$turned])),
        );
    }

    public function testAnyToAnyTakesWholeGroupsOnly(): void
    {
        $left = [
            self::row(1, 300, 1, ['r' => 'A']),
            self::row(2, 200, 2, ['r' => 'A']),
            self::row(3, 5, 1, ['r' => 'B']),
        ];
        $right = [
            self::row(7, 250, 3, ['r' => 'A']),
            self::row(8, 250, 3, ['r' => 'A']),
            self::row(9, 6, 1, ['r' => 'B']),
        ];
        $rule = new Rule(1, Rows::Any, Rows::Any, ['r'], daysWithin: 2);
        self::assertSame(['1+2=7+8'], self::said(RowPairer::pair($left, $right, [$rule])));
        self::assertSame(
            [],
            self::said(RowPairer::pair($left, $right, [new Rule(1, Rows::Any, Rows::Any, ['r'], daysWithin: 1)])),
        );
    }

    public function testSummedFirstAndFilters(): void
    {
        $left = [
            self::row(1, 300, 1, ['slip' => 'S1']),
            self::row(2, 200, 1, ['slip' => 's-1']),
            self::row(3, 500, 1, ['slip' => '']),
        ];
        $right = [self::row(7, 500, 1, ['text' => 'DEPOSIT']), self::row(8, 500, 1, ['text' => 'fee'])];
        $rule = new Rule(
            1,
            leftSum: 'slip',
            filters: [
                new Filter('right', 'text', 'has', 'deposit'),
                new Filter('left', 'slip', 'is not', ''),
                new Filter('both', 'amount', 'above', '100'),
            ],
        );
        // both rows of the slip are above 100, and the row without one takes no part
        self::assertSame(['1+2=7'], self::said(RowPairer::pair($left, $right, [$rule])));
        $none = new Rule(1, filters: [new Filter('left', 'amount', 'below', '100')]);
        self::assertSame([], self::said(RowPairer::pair($left, $right, [$none])));
    }

    /** @return array{list<Row>, list<Row>} small sides with noise, duplicates, splits and ties */
    private static function sides(): array
    {
        $id = 0;
        $left = $right = [];
        for ($n = mt_rand(2, 7); $n > 0; --$n) {
            $amount = 100 * mt_rand(1, 5) + mt_rand(0, 2);
            $day = mt_rand(1, 6);
            $fields = ['r' => ['A', 'B', 'C'][mt_rand(0, 2)]];
            $left[] = self::row(++$id, $amount, $day, $fields);
            switch (mt_rand(0, 3)) {
                case 0:
                    $part = mt_rand(1, $amount - 1);
                    $right[] = self::row(++$id, $part, $day + mt_rand(0, 2), $fields);
                    $right[] = self::row(++$id, $amount - $part, $day + mt_rand(0, 2), $fields);
                    break;
                case 1:
                    $right[] = self::row(++$id, $amount + mt_rand(-2, 2), $day + mt_rand(0, 3), $fields);
                    break;
                case 2:
                    $right[] = self::row(++$id, $amount, $day, $fields);
                    $right[] = self::row(++$id, $amount, $day + mt_rand(0, 1), $fields);
                    break;
                default:
                    break;
            }
        }

        return [$left, $right];
    }

    private static function rule(int $number): Rule
    {
        $agree = [[], ['r']][mt_rand(0, 1)];

        return new Rule(
            $number,
            [Rows::One, Rows::One, Rows::Any][mt_rand(0, 2)],
            [Rows::One, Rows::One, Rows::Any][mt_rand(0, 2)],
            $agree,
            mt_rand(0, 3),
            0 === mt_rand(0, 3) ? BigDecimal::of(mt_rand(0, 2)) : null,
            [null, 0, 1, 3][mt_rand(0, 3)],
            0 === mt_rand(0, 1),
        );
    }

    /** What rules make of small random sides is what counting everything out makes of them; and the order of rows changes nothing. */
    public function testAgainstCountingEverythingOut(): void
    {
        mt_srand(20260615);
        $paired = 0;
        for ($n = 0; $n < 3_000; ++$n) {
            [$left, $right] = self::sides();
            $rules = array_map(self::rule(...), range(1, mt_rand(1, 3)));
            $outcome = RowPairer::pair($left, $right, $rules);
            self::assertSame(BruteForcePairer::said($left, $right, $rules), self::said($outcome), (string) $n);
            shuffle($left);
            shuffle($right);
            self::assertSame(
                self::said($outcome),
                self::said(RowPairer::pair($left, $right, $rules)),
                'the order of rows decides nothing',
            );
            $paired += \count($outcome->pairs);
            // every row is in one pair, or over
            $rows = [...$outcome->left, ...$outcome->right];
            foreach ($outcome->pairs as $p) {
                array_push($rows, ...$p->left, ...$p->right);
            }
            sort($rows);
            $all = array_map(static fn (Row $r): int => $r->id, [...$left, ...$right]);
            sort($all);
            self::assertSame($all, $rows);
        }
        self::assertGreaterThan(2_000, $paired);
    }
}
