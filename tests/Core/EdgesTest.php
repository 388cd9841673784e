<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Aging\Ager;
use Nelbix\Core\Aging\AgingSum;
use Nelbix\Core\Aging\Bucketing;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Csv;
use Nelbix\Core\Formats\Payment\AchFile;
use Nelbix\Core\Formats\Payment\BankKey;
use Nelbix\Core\Formats\Payment\CreditTransferFile;
use Nelbix\Core\Formats\Payment\PaymentOrder;
use Nelbix\Core\Formats\Payment\Transfer;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Proposal\Candidate;
use Nelbix\Core\Proposal\Criteria;
use Nelbix\Core\Proposal\Payee;
use Nelbix\Core\Proposal\Proposer;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\Adjustment;
use Nelbix\Core\Settlement\AdjustmentKind;
use Nelbix\Core\Settlement\Placement;
use Nelbix\Core\Settlement\Settler;
use Nelbix\Core\Terms\PaymentTerm;
use Nelbix\Core\Terms\PercentStep;
use Nelbix\Core\Terms\RunsFrom;
use Nelbix\Core\Terms\Step;
use Nelbix\Core\Terms\TermDates;
use Nelbix\Core\Terms\Window;
use PHPUnit\Framework\TestCase;

/** The places where a rule turns over: the last day, the smallest amount, the one thing that differs. Source: rules.md. */
final class EdgesTest extends TestCase
{
    private static function item(
        int $id,
        int $amount,
        int $party = 1,
        Side $side = Side::Payables,
        string $currency = 'USD',
        int $account = 1,
    ): OpenItem {
        return new OpenItem(
            $id,
            $side,
            $party,
            $amount > 0 ? DocumentKind::Invoice : DocumentKind::CreditNote,
            'I-'.$id,
            $account,
            $currency,
            $amount,
            $amount,
            $amount,
            $amount,
            Day::of('2026-05-01'),
            Day::of('2026-06-10'),
        );
    }

    public function testADayLateIsInTheFirstBucketAndTheThirtyFirstInTheSecond(): void
    {
        $age = static function (string $due): array {
            $sum = new AgingSum(1, $due, AgingSum::ITEM, 100);
            $row = Ager::age([$sum], Day::of('2026-06-15'), new Bucketing([30, 60, 90]))[1];

            return [$row->notDue, ...$row->buckets];
        };
        self::assertSame([100, 0, 0, 0, 0], $age('2026-06-15'), 'today is not late');
        self::assertSame([0, 100, 0, 0, 0], $age('2026-06-14'));
        self::assertSame([0, 100, 0, 0, 0], $age('2026-05-16'), '30 days');
        self::assertSame([0, 0, 100, 0, 0], $age('2026-05-15'), '31 days');
    }

    public function testAPaymentOfExactlyTheSmallestIsMade(): void
    {
        $propose = static fn (int $smallest): int => \count(
            Proposer::propose(
                new Criteria(
                    Day::of('2026-06-15'),
                    Day::of('2026-06-15'),
                    Day::of('2026-06-22'),
                    'USD',
                    methods: ['check'],
                    smallest: $smallest,
                ),
                [
                    new Candidate(self::item(1, 5000), new Payee(1, 'V-1')),
                    new Candidate(self::item(2, 5000, 2), new Payee(2, 'V-2', method: 'transfer')),
                ],
            )->payments,
        );
        self::assertSame([1, 1, 0], [$propose(4999), $propose(5000), $propose(5001)]);
    }

    public function testOneDifferenceIsEnoughToRefuseASettlement(): void
    {
        $settle = static fn (OpenItem $credit): mixed => (new Settler('USD', 9))->settle(
            [new Placement(self::item(1, 100), 100), new Placement($credit, -100)],
            [],
            Day::of('2026-06-15'),
            BigDecimal::one(),
            'test',
        );
        $settle(self::item(2, -100));
        foreach (
            [
                'another party' => self::item(2, -100, 2),
                'the other side' => self::item(2, -100, 1, Side::Receivables),
                'another currency' => self::item(2, -100, 1, Side::Payables, 'EUR'),
            ] as $what => $credit
        ) {
            try {
                $settle($credit);
                self::fail($what);
            } catch (Refused $e) {
                self::assertNotSame('', $e->getMessage());
            }
        }
    }

    /** 100.00 EUR moved from one control account to another: both sides of the entry say so in EUR too. */
    public function testASettlementBetweenAccountsKeepsTheForeignAmount(): void
    {
        $entry = (new Settler('USD', 9))->settle(
            [
                new Placement(self::item(1, 100, 1, Side::Receivables, 'EUR', 11), 100),
                new Placement(self::item(2, -100, 1, Side::Receivables, 'EUR', 12), -100),
            ],
            [],
            Day::of('2026-06-15'),
            BigDecimal::of('1.1'),
            'test',
        )->entry;
        $amounts = [];
        foreach ($entry->lines as $line) {
            $amounts[$line->account] = [$line->base, $line->amount];
        }
        ksort($amounts);
        self::assertSame([11 => [-100, -100], 12 => [100, 100]], $amounts);
    }

    public function testAReversedEntryTurnsBothAmounts(): void
    {
        $draft = JournalDraft::of('EUR', [new DraftLine(1, 110, 100, 'a'), new DraftLine(2, -110, -100, 'b')]);
        self::assertSame(
            [[-110, -100], [110, 100]],
            array_map(static fn (DraftLine $l): array => [$l->base, $l->amount], $draft->reversed()->lines),
        );
    }

    public function testWindowsThatTouchOverlap(): void
    {
        $term = static fn (int $from): PaymentTerm => new PaymentTerm(
            RunsFrom::Document,
            Step::days(30),
            windows: [new Window(1, 15, Step::days(0)), new Window($from, 31, Step::days(0))],
        );
        $term(16)->mustMakeSense();
        $this->expectException(Refused::class);
        $term(15)->mustMakeSense();
    }

    /** One cent in two halves is one part; nothing in two halves stays two parts of nothing. */
    public function testAPartOfZeroIsNoItem(): void
    {
        $half = static fn (int $days): PercentStep => new PercentStep(BigDecimal::of(50), Step::days($days));
        $term = new PaymentTerm(RunsFrom::Document, Step::days(0), instalments: [$half(10), $half(20)]);
        $day = Day::of('2026-06-01');
        $parts = static fn (int $total): array => array_map(
            static fn ($p): int => $p->amount,
            $term->schedule(new TermDates($day, $day, $day), $total, $total),
        );
        self::assertSame([1], $parts(1));
        self::assertSame([1, 1], $parts(2));
        self::assertSame([0, 0], $parts(0));
    }

    public function testRolesOfTheTwoSides(): void
    {
        self::assertSame(
            [AccountRole::CustomerPrepayments, AccountRole::VendorPrepayments],
            [Side::Receivables->prepaymentRole(), Side::Payables->prepaymentRole()],
        );
        self::assertSame(
            [AccountRole::DiscountsAllowed, AccountRole::DiscountsReceived],
            [Side::Receivables->discountRole(), Side::Payables->discountRole()],
        );
    }

    public function testMoneyAddsAndTakesAway(): void
    {
        $money = static fn (int $minor): Money => Money::of($minor, 'USD');
        self::assertSame([130, 70], [$money(100)->plus($money(30))->minor, $money(100)->minus($money(30))->minor]);
        self::assertSame([true, false], [$money(0)->isZero(), $money(1)->isZero()]);
    }

    public function testAWindowLiesWithinAMonth(): void
    {
        foreach (['0-15:+1m10', '1-32:+1m10', '16-15:+1m10'] as $windows) {
            try {
                PaymentTerm::fromSpec(['net' => '0', 'windows' => $windows]);
                self::fail($windows);
            } catch (Refused $e) {
                self::assertSame('windows', $e->problems[0]->field);
            }
        }
    }

    public function testAnAdjustmentIsAboveZeroAndOnTheSideOfWhatIsSettled(): void
    {
        foreach ([0, 5] as $amount) {
            try {
                (new Settler('USD', 9))->settle(
                    [new Placement(self::item(1, 100), 100), new Placement(self::item(2, -100), -100)],
                    [new Adjustment(AdjustmentKind::Discount, 1, $amount, 7)],
                    Day::of('2026-06-15'),
                    BigDecimal::one(),
                    '',
                );
                self::fail((string) $amount);
            } catch (Refused $e) {
                self::assertStringContainsString('between zero and what is settled', $e->getMessage());
            }
        }
    }

    public function testTwentyWrongColumnsAreNamedAndNoMore(): void
    {
        try {
            Csv::read(implode(',', array_map(static fn (int $n): string => 'x'.$n, range(1, 30)))."\n", ['a']);
            self::fail('taken');
        } catch (Refused $e) {
            self::assertCount(21, $e->problems, 'twenty of them, and the one that is missing');
        }
    }

    public function testAnIsoFileNamesTheBankByItsCodeElseItsRoutingNumberElseSaysThatNone(): void
    {
        $bank = static function (string $bic, string $routing): string {
            $key = new BankKey('DE40987654329876543210', $bic, $routing, '777001');
            $file = (new CreditTransferFile())->write(self::order($key));
            preg_match('#<DbtrAgt>\s*<FinInstnId>(.*?)</FinInstnId>#s', $file, $found);

            return (string) preg_replace('/\s+/', '', $found[1] ?? '');
        };
        self::assertSame('<BICFI>NTSBDEB1XXX</BICFI>', $bank('NTSBDEB1XXX', '021000021'));
        self::assertSame(
            '<ClrSysMmbId><ClrSysId><Cd>USABA</Cd></ClrSysId><MmbId>021000021</MmbId></ClrSysMmbId>',
            $bank('', '021000021'),
        );
        self::assertSame('<Othr><Id>NOTPROVIDED</Id></Othr>', $bank('', ''));
    }

    public function testAchWantsBothTheRoutingNumberAndTheNumberTheBankKnowsUsBy(): void
    {
        foreach ([['', '9123456789'], ['021000021', '']] as [$routing, $number]) {
            try {
                (new AchFile(false))->write(self::order(new BankKey('', '', $routing, '777001'), $number));
                self::fail($routing.' '.$number);
            } catch (Refused $e) {
                self::assertSame('bank', $e->problems[0]->field);
            }
        }
    }

    private static function order(BankKey $from, string $number = '9123456789'): PaymentOrder
    {
        $to = new BankKey('DE89370400440532013000', 'COBADEFFXXX', '011401533', 'ACC1');

        return new PaymentOrder(
            'BF-26-00001',
            new \DateTimeImmutable('2026-06-15 08:30:00'),
            Day::of('2026-06-16'),
            'Tamarack Boatworks',
            'USD',
            $from,
            'USD',
            'Harbor Trust',
            $number,
            [new Transfer('PY-26-00001', 'Vendor', $to, 500, 'US', [['number' => 'A-1', 'amount' => 500]])],
        );
    }
}
