<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Proposal\Candidate;
use Nelbix\Core\Proposal\Criteria;
use Nelbix\Core\Proposal\IfPaidLate;
use Nelbix\Core\Proposal\Payee;
use Nelbix\Core\Proposal\Proposer;
use Nelbix\Core\Terms\DatedDiscount;
use Nelbix\Core\Terms\EarlyDiscount;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Discount at stake and the ranking under short cash. Source: rules.md, Payment proposal. */
final class CriteriaTest extends TestCase
{
    /** @param list<array{string, string}> $steps percent, through */
    private static function item(int $id, int $amount, string $due, array $steps = [], int $grace = 0): OpenItem
    {
        $discount =
            [] === $steps
                ? null
                : new EarlyDiscount(
                    $amount,
                    $amount,
                    array_map(
                        static fn (array $s): DatedDiscount => new DatedDiscount(
                            Day::of($s[1]),
                            BigDecimal::of($s[0]),
                            0,
                        ),
                        $steps,
                    ),
                    $grace,
                );

        return new OpenItem(
            $id,
            Side::Payables,
            1,
            DocumentKind::Invoice,
            'VI-'.$id,
            2100,
            'USD',
            $amount,
            $amount,
            $amount,
            $amount,
            Day::of('2026-05-01'),
            Day::of($due),
            $discount,
        );
    }

    /**
     * @return iterable<string, array{list<array{string, string}>, int, string, string, int, int}> steps, grace, pay, again,
     *                                                                                             discount taken, at stake (0: stays
     *                                                                                             out); item of 1,000.00 due 2026-07-31
     */
    public static function stakes(): iterable
    {
        $two = [['3', '2026-06-20'], ['2', '2026-06-30']];
        yield 'lapses between the two dates' => [[['2', '2026-06-24']], 0, '2026-06-22', '2026-06-29', 2000, 2000];
        yield 'holds on both dates' => [[['2', '2026-06-29']], 0, '2026-06-22', '2026-06-29', 0, 0];
        yield 'has lapsed already' => [[['2', '2026-06-21']], 0, '2026-06-22', '2026-06-29', 0, 0];
        yield 'grace keeps it for both' => [[['2', '2026-06-24']], 5, '2026-06-22', '2026-06-29', 0, 0];
        yield 'grace brings it back for the first' => [
            [['2', '2026-06-20']],
            2,
            '2026-06-22',
            '2026-06-29',
            2000,
            2000,
        ];
        yield 'the better of two steps is at stake' => [$two, 0, '2026-06-20', '2026-06-27', 3000, 1000];
        yield 'the second step, still there later' => [$two, 0, '2026-06-21', '2026-06-30', 0, 0];
        yield 'both steps lapse' => [$two, 0, '2026-06-20', '2026-07-01', 3000, 3000];
    }

    /** @param list<array{string, string}> $steps */
    #[DataProvider('stakes')]
    public function testDiscountAtStake(
        array $steps,
        int $grace,
        string $pay,
        string $again,
        int $discount,
        int $stake,
    ): void {
        $result = Proposer::propose(new Criteria(Day::of($pay), Day::of($pay), Day::of($again), 'USD'), [
            new Candidate(self::item(1, 100000, '2026-07-31', $steps, $grace), new Payee(1, 'V-1')),
        ]);
        self::assertCount($stake > 0 ? 1 : 0, $result->in);
        $decision = $result->in[0] ?? $result->out[0];
        self::assertSame([$discount, $stake], [$decision->discount, $decision->stake]);
        self::assertSame(0, $result->totals()['lost']);
    }

    /** @return iterable<string, array{list<Candidate>, int, list<int>}> candidates, cash, the items that are paid */
    public static function rankings(): iterable
    {
        $payee = static fn (int $id, IfPaidLate $late = IfPaidLate::CanWait): Payee => new Payee(
            $id,
            'V-'.$id,
            ifPaidLate: $late,
        );
        $c = static fn (int $id, int $amount, string $due, Payee $payee, string ...$step): Candidate => new Candidate(
            self::item($id, $amount, $due, [] === $step ? [] : [[$step[0], $step[1]]]),
            $payee,
        );
        yield 'who stops our work comes first' => [
            [
                $c(1, 500, '2026-06-01', $payee(1)),
                $c(2, 500, '2026-06-20', $payee(2, IfPaidLate::StopsWork)),
                $c(3, 500, '2026-06-10', $payee(3, IfPaidLate::Costs)),
            ],
            1000,
            [2, 3],
        ];
        yield 'then the higher yearly yield' => [
            [
                $c(1, 10000, '2026-07-22', $payee(1), '1', '2026-06-23'),
                $c(2, 10000, '2026-07-22', $payee(2), '2', '2026-06-23'),
            ],
            10000,
            [2],
        ];
        yield 'a discount with no days to wait ranks first' => [
            [
                $c(1, 10000, '2026-07-22', $payee(1), '3', '2026-06-23'),
                $c(2, 10000, '2026-06-23', $payee(2), '1', '2026-06-23'),
            ],
            10000,
            [2],
        ];
        yield 'then the earlier due date' => [
            [$c(1, 500, '2026-06-12', $payee(1)), $c(2, 500, '2026-06-11', $payee(2))],
            500,
            [2],
        ];
        yield 'then the vendor’s code' => [
            [$c(1, 500, '2026-06-11', $payee(9)), $c(2, 500, '2026-06-11', $payee(3))],
            500,
            [2],
        ];
        yield 'a smaller one that still fits is taken' => [
            [
                $c(1, 900, '2026-06-01', $payee(1)),
                $c(2, 500, '2026-06-02', $payee(2)),
                $c(3, 100, '2026-06-03', $payee(3)),
            ],
            1000,
            [1, 3],
        ];
        yield 'nothing fits' => [[$c(1, 900, '2026-06-01', $payee(1))], 899, []];
    }

    /**
     * @param list<Candidate> $candidates
     * @param list<int> $paid
     */
    #[DataProvider('rankings')]
    public function testCashToSpend(array $candidates, int $cash, array $paid): void
    {
        $result = Proposer::propose(
            new Criteria(Day::of('2026-06-22'), Day::of('2026-06-22'), Day::of('2026-06-29'), 'USD', cash: $cash),
            $candidates,
        );
        $ids = array_map(static fn ($d): int => $d->candidate->item->id, $result->in);
        sort($ids);
        self::assertSame($paid, $ids);
        self::assertLessThanOrEqual($cash, $result->totals()['pay']);
        foreach ($result->out as $d) {
            self::assertSame('over_cash', $d->reason->value);
        }
    }
}
