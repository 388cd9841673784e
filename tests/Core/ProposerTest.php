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
use Nelbix\Core\Proposal\Decision;
use Nelbix\Core\Proposal\IfPaidLate;
use Nelbix\Core\Proposal\Payee;
use Nelbix\Core\Proposal\ProposalResult;
use Nelbix\Core\Proposal\Proposer;
use Nelbix\Core\Refused;
use Nelbix\Core\Terms\DatedDiscount;
use Nelbix\Core\Terms\EarlyDiscount;
use PHPUnit\Framework\TestCase;

/** Source of the cases: rules.md, Payment proposal. */
final class ProposerTest extends TestCase
{
    private static function item(
        int $id,
        int $amount,
        string $due,
        string $discount = '',
        string $currency = 'USD',
    ): OpenItem {
        $d = null;
        if ('' !== $discount) {
            [$percent, $through] = explode('@', $discount);
            $d = new EarlyDiscount($amount, $amount, [
                new DatedDiscount(Day::of($through), BigDecimal::of($percent), 0),
            ]);
        }

        return new OpenItem(
            $id,
            Side::Payables,
            1,
            $amount > 0 ? DocumentKind::Invoice : DocumentKind::CreditNote,
            'VI-'.$id,
            2100,
            $currency,
            $amount,
            $amount,
            $amount,
            $amount,
            Day::of('2026-05-01'),
            Day::of($due),
            $d,
        );
    }

    /** @param array<string, mixed> $more */
    private static function criteria(array $more = []): Criteria
    {
        return new Criteria(
            ...[
                'payDate' => Day::of('2026-06-22'),
                'dueThrough' => Day::of('2026-06-22'),
                'againOn' => Day::of('2026-06-29'),
                'currency' => 'USD',
                ...$more,
            ],
        );
    }

    /** @return array<int, string> */
    private static function reasons(ProposalResult $r): array
    {
        $reasons = [];
        foreach ([...$r->in, ...$r->out] as $d) {
            self::assertArrayNotHasKey($d->candidate->item->id, $reasons, 'each item is in exactly one of in and out');
            $reasons[$d->candidate->item->id] = $d->reason->value;
        }
        ksort($reasons);

        return $reasons;
    }

    public function testReasons(): void
    {
        $v = new Payee(1, 'V-1');
        $r = Proposer::propose(self::criteria(['methods' => ['check']]), [
            new Candidate(self::item(1, 10000, '2026-06-10'), $v),
            new Candidate(self::item(2, 10000, '2026-06-22'), $v),
            new Candidate(self::item(3, 10000, '2026-06-23'), $v),
            new Candidate(self::item(4, 10000, '2026-07-20', '2@2026-06-24'), $v),
            new Candidate(self::item(5, 10000, '2026-07-20', '2@2026-06-29'), $v),
            new Candidate(self::item(6, 10000, '2026-06-10'), $v, held: true),
            new Candidate(self::item(7, 10000, '2026-06-10'), new Payee(2, 'V-2', stopped: true)),
            new Candidate(self::item(8, 10000, '2026-06-10', currency: 'EUR'), $v),
            new Candidate(self::item(9, 10000, '2026-06-10'), new Payee(3, 'V-3', method: 'transfer')),
            new Candidate(self::item(10, 10000, '2026-06-10'), $v, reservedBy: 'PP-1'),
            new Candidate(self::item(11, 10000, '2026-06-10'), $v, awaitingApproval: true),
            new Candidate(self::item(12, 10000, '2026-06-10'), new Payee(4, 'V-4', bankDetailsReady: false)),
            new Candidate(self::item(13, -2500, '2026-06-10'), $v),
            new Candidate(self::item(14, 3000, '2026-06-10'), new Payee(5, 'V-5')),
            new Candidate(self::item(15, -3000, '2026-06-10'), new Payee(5, 'V-5')),
            new Candidate(self::item(16, -3000, '2026-06-10'), new Payee(6, 'V-6')),
            new Candidate(self::item(17, -500, '2026-06-10'), $v, isPrepayment: true),
        ]);
        self::assertSame(
            [
                1 => 'overdue',
                'due',
                'not_due',
                'discount_at_stake',
                'not_due',
                'held',
                'stopped',
                'other_currency',
                'other_method',
                'reserved',
                'awaiting_approval',
                'bank_details',
                'credit',
                'credits_cover',
                'credits_cover',
                'nothing_to_set_against',
                'credits_cover',
            ],
            self::reasons($r),
        );
        self::assertSame(
            ['gross' => 30000, 'discount' => 200, 'credits' => 2500, 'withholding' => 0, 'pay' => 27300, 'lost' => 0],
            $r->totals(),
        );
        self::assertCount(1, $r->payments);
        self::assertCount(1, $r->prepayments);
    }

    public function testDiscountLostIsWhatIsAtStakeOnItemsThatAreOut(): void
    {
        $r = Proposer::propose(self::criteria(), [
            new Candidate(self::item(1, 10000, '2026-07-20', '2@2026-06-24'), new Payee(1, 'V-1'), held: true),
        ]);
        self::assertSame(200, $r->totals()['lost']);
        // another proposal keeps it: it is not lost
        $r = Proposer::propose(self::criteria(), [
            new Candidate(self::item(1, 10000, '2026-07-20', '2@2026-06-24'), new Payee(1, 'V-1'), reservedBy: 'PP-1'),
        ]);
        self::assertSame(0, $r->totals()['lost']);
    }

    public function testPrepaymentsAreNamedOfWhoIsPaidOnly(): void
    {
        $prepaid = static fn (int $id, Payee $to): Candidate => new Candidate(
            self::item($id, -500, '2026-06-10'),
            $to,
            isPrepayment: true,
        );
        [$paid, $stopped, $other] = [new Payee(1, 'V-1'), new Payee(2, 'V-2', stopped: true), new Payee(3, 'V-3')];
        $r = Proposer::propose(self::criteria(), [
            new Candidate(self::item(1, 10000, '2026-06-10'), $paid),
            $prepaid(2, $paid),
            new Candidate(self::item(3, 10000, '2026-06-10'), $stopped),
            $prepaid(4, $stopped),
            $prepaid(5, $other),
        ]);
        self::assertSame([2], array_map(static fn (Candidate $c): int => $c->item->id, $r->prepayments));
    }

    public function testFilters(): void
    {
        $a = new Candidate(self::item(1, 10000, '2026-06-10'), new Payee(1, 'V-1', ifPaidLate: IfPaidLate::StopsWork));
        $b = new Candidate(self::item(2, 10000, '2026-06-10'), new Payee(2, 'V-2'));
        self::assertSame(
            [1 => 'overdue', 'filtered'],
            self::reasons(Proposer::propose(self::criteria(['payees' => [1]]), [$a, $b])),
        );
        self::assertSame(
            [1 => 'overdue', 'filtered'],
            self::reasons(Proposer::propose(self::criteria(['ifPaidLate' => [IfPaidLate::StopsWork]]), [$a, $b])),
        );
        self::assertSame(
            [1 => 'below_smallest', 'below_smallest'],
            self::reasons(Proposer::propose(self::criteria(['smallest' => 10001]), [$a, $b])),
        );
    }

    /** Rank: if-paid-late, then yield of the discount at stake, then earliest due, then vendor; each that still fits is taken. */
    public function testCashToSpend(): void
    {
        $candidates = [
            new Candidate(self::item(1, 50000, '2026-06-01'), new Payee(1, 'V-1')),
            new Candidate(self::item(2, 40000, '2026-06-20'), new Payee(2, 'V-2', ifPaidLate: IfPaidLate::StopsWork)),
            new Candidate(self::item(3, 30000, '2026-07-15', '2@2026-06-25'), new Payee(3, 'V-3')),
            new Candidate(self::item(4, 10000, '2026-06-20'), new Payee(4, 'V-4')),
        ];
        $r = Proposer::propose(self::criteria(['cash' => 85000]), $candidates);
        self::assertSame([1 => 'over_cash', 'overdue', 'discount_at_stake', 'overdue'], self::reasons($r));
        self::assertSame(40000 + 29400 + 10000, $r->totals()['pay']);
        self::assertEquals(
            $r,
            Proposer::propose(self::criteria(['cash' => 85000]), $candidates),
            'the same input gives the same answer',
        );
    }

    public function testOnePaymentPerInvoice(): void
    {
        $v = new Payee(1, 'V-1', separatePayments: true);
        $r = Proposer::propose(self::criteria(), [
            new Candidate(self::item(1, 10000, '2026-06-10'), $v),
            new Candidate(self::item(2, 30000, '2026-06-11'), $v),
            new Candidate(self::item(3, -15000, '2026-06-01'), $v),
            new Candidate(self::item(4, -90000, '2026-06-01'), $v),
        ]);
        self::assertSame([1 => 'overdue', 'overdue', 'credit', 'credits_cover'], self::reasons($r));
        self::assertSame([10000, 15000], array_map(static fn ($p): int => $p->amount(), $r->payments));
    }

    public function testPayingAgainMustBeLater(): void
    {
        $this->expectException(Refused::class);
        self::criteria(['againOn' => Day::of('2026-06-22')]);
    }

    /** Random items and criteria (seeded): in and out never overlap, sums agree, limits hold, the same input gives the same answer. */
    public function testPropertiesOverRandomItems(): void
    {
        mt_srand(20260615);
        for ($round = 0; $round < 60; ++$round) {
            $candidates = [];
            for ($i = 1; $i <= 40; ++$i) {
                $vendor = mt_rand(1, 9);
                $due = Day::of('2026-06-15')->plusDays(mt_rand(-40, 40));
                $amount = mt_rand(1, 5) > 1 ? mt_rand(1, 900000) : -mt_rand(1, 200000);
                $discount = $amount > 0 && mt_rand(0, 1) ? '2@'.$due->plusDays(-mt_rand(0, 20)) : '';
                $payee = new Payee(
                    $vendor,
                    'V-'.$vendor,
                    ifPaidLate: IfPaidLate::cases()[$vendor % 3],
                    separatePayments: 0 === $vendor % 4,
                    bankDetailsReady: 7 !== $vendor,
                    group: 1 === $vendor % 2 ? 'odd' : 'even',
                );
                $candidates[] = new Candidate(
                    self::item($i, $amount, $due->iso(), $discount),
                    $payee,
                    held: 1 === mt_rand(1, 12),
                );
            }
            $cash = 0 === mt_rand(0, 3) ? null : mt_rand(100000, 3000000);
            $asked = [
                'cash' => $cash,
                'smallest' => 0 === mt_rand(0, 1) ? 0 : mt_rand(1, 400000),
                'dueThrough' => Day::of('2026-06-22')->plusDays(mt_rand(-10, 30)),
                'againOn' => Day::of('2026-06-22')->plusDays(mt_rand(1, 30)),
                'perInvoice' => 1 === mt_rand(1, 3),
                'groups' => 1 === mt_rand(1, 3) ? ['odd'] : [],
                'ifPaidLate' => 1 === mt_rand(1, 4) ? [IfPaidLate::Costs, IfPaidLate::StopsWork] : [],
            ];
            $r = Proposer::propose(self::criteria($asked), $candidates);
            self::assertEquals(
                $r,
                Proposer::propose(self::criteria($asked), $candidates),
                'the same input gives the same answer',
            );
            self::assertCount(40, self::reasons($r));
            $t = $r->totals();
            self::assertSame($t['pay'], $t['gross'] - $t['discount'] - $t['credits'] - $t['withholding']);
            self::assertSame($t['pay'], array_sum(array_map(static fn ($p): int => $p->amount(), $r->payments)));
            self::assertLessThanOrEqual($cash ?? \PHP_INT_MAX, $t['pay']);
            foreach ($r->payments as $payment) {
                self::assertGreaterThanOrEqual($asked['smallest'], $payment->amount());
                self::assertTrue([] === $asked['groups'] || 'odd' === $payment->payee->group);
                self::assertLessThanOrEqual(
                    $asked['perInvoice'] ? 1 : 40,
                    \count(
                        array_filter(
                            $payment->decisions,
                            static fn (Decision $d): bool => $d->candidate->item->open > 0,
                        ),
                    ),
                );
            }
            $paid = array_merge(
                ...array_map(
                    static fn ($p): array => array_map(
                        static fn (Decision $d): int => $d->candidate->item->id,
                        $p->decisions,
                    ),
                    $r->payments,
                ),
                ...[[]],
            );
            self::assertSameSize($r->in, array_unique($paid));
            foreach ($r->payments as $payment) {
                self::assertGreaterThan(0, $payment->amount());
            }
        }
    }

    /** Asked for one group of vendors; and one payment for each invoice because the clerk says so, credits kept within them. */
    public function testAGroupAndOnePaymentForEachInvoice(): void
    {
        $yard = new Payee(1, 'V-1', group: 'yard services');
        $timber = new Payee(2, 'V-2', group: 'materials');
        $candidates = [
            new Candidate(self::item(1, 1000, '2026-06-01'), $yard),
            new Candidate(self::item(2, 500, '2026-06-02'), $yard),
            new Candidate(self::item(3, -300, '2026-06-03'), $yard),
            new Candidate(self::item(4, 700, '2026-06-01'), $timber),
            new Candidate(self::item(5, 100, '2026-06-01'), new Payee(3, 'V-3')),
        ];
        $of = static fn (array $more): array => array_map(
            static fn (\Nelbix\Core\Proposal\ProposedPayment $p): int => $p->amount(),
            Proposer::propose(self::criteria($more), $candidates)->payments,
        );
        self::assertSame([1200, 700, 100], $of([]));
        self::assertSame([1200], $of(['groups' => ['yard services']]));
        self::assertSame([1200, 700], $of(['groups' => ['materials', 'yard services']]));
        self::assertSame(
            'filtered',
            self::reasons(Proposer::propose(self::criteria(['groups' => ['materials']]), $candidates))[5],
        );
        self::assertSame([700, 500, 700, 100], $of(['perInvoice' => true]));
    }

    /** 20.00 at stake in EUR are not lost by a run in USD: amounts of two currencies are never added. */
    public function testWhatAnotherCurrencyWouldLoseIsNotAdded(): void
    {
        $payee = new Payee(1, 'V-1');
        $r = Proposer::propose(self::criteria(['payees' => [9]]), [
            new Candidate(self::item(1, 1000_00, '2026-07-20', '2@2026-06-23', 'EUR'), $payee),
            new Candidate(self::item(2, 500_00, '2026-07-20', '2@2026-06-23'), $payee),
        ]);
        self::assertSame([1 => 'other_currency', 2 => 'filtered'], self::reasons($r));
        self::assertSame(10_00, $r->totals()['lost']);
    }
}
