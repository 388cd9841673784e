<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\SettleItems;
use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Close\Aging\AgingLine;
use Nelbix\App\Close\Revaluation\PostRevaluation;
use Nelbix\App\Close\Revaluation\ProposeRevaluation;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\App\Ledger\SaveRate;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use PHPUnit\Framework\Attributes\DataProvider;

/**
 * Months in random order (seeded), both sides, two currencies: invoices, credits, money, settlements, undone on later days, month ends
 * revalued and taken back. What the aging says of any day is what the entries say of it.
 */
final class RandomMonthsTest extends AppCase
{
    /** @var list<int> revaluations */
    private array $revalued = [];

    /** @return iterable<array{int}> */
    public static function seeds(): iterable
    {
        foreach ([15, 16, 18] as $seed) {
            yield 'seed '.$seed => [$seed];
        }
    }

    #[DataProvider('seeds')]
    public function testTheAgingOfAnyDayIsAReplayOfTheEntries(int $seed): void
    {
        $this->play($seed, true);
        for ($n = 0; $n < 50; ++$n) {
            $day = Day::of('2026-01-01')->plusDays(mt_rand(0, 185));
            foreach (Side::cases() as $side) {
                $aged = [];
                foreach ($this->aged($side, $day) as $l) {
                    \assert($l instanceof AgingLine);
                    $aged[(string) $l->key] = $l->row->total();
                }
                self::assertSame(
                    $this->entriesOf($side, $day),
                    array_filter($aged),
                    $side->value.' on '.$day->iso(),
                );
            }
            foreach (self::get(TieOutQuery::class)->of($this->clerk->companyId, $day) as $t) {
                self::assertSame(
                    [0, []],
                    [$t['tie']->difference(), $t['tie']->explainedBy],
                    $t['name'].' on '.$day->iso(),
                );
            }
        }
    }

    /** IAS 21.28: what was settled gained or lost what it did, whether the months between were revalued or not. */
    #[DataProvider('seeds')]
    public function testRevaluingLeavesSettledGainsAlone(int $seed): void
    {
        $with = $this->play($seed, true);
        self::assertNotSame([], $this->revalued, 'something was revalued');
        $this->revalued = [];
        $this->makeCompany('PLAIN');
        $without = $this->play($seed, false);
        self::assertSame($without, $with);
        self::assertNotSame([], array_filter(array_column($with, 1)), 'something was gained or lost');
    }

    /**
     * Each kind of break, put into the tables past every guard: the lines that explain a difference add up to it, on any day.
     */
    #[DataProvider('breaks')]
    public function testExplanationsAddUpForEveryKindOfBreak(string $sql): void
    {
        $this->play(18, true);
        $db = $this->db();
        $db->executeStatement('SAVEPOINT whole');
        self::assertGreaterThan(0, $db->executeStatement($sql), 'it breaks something');
        $broken = 0;
        for ($day = Day::of('2026-01-10'); $day->isBefore(Day::of('2026-07-20')); $day = $day->plusDays(10)) {
            foreach (self::get(TieOutQuery::class)->of($this->clerk->companyId, $day) as $t) {
                $explained = array_sum(array_map(static fn ($e): int => $e->amount, $t['tie']->explainedBy));
                self::assertSame($t['tie']->difference(), $explained, $t['name'].' on '.$day->iso());
                $broken += \count($t['tie']->explainedBy);
            }
        }
        self::assertGreaterThan(0, $broken, 'it is seen');
        $db->executeStatement('ROLLBACK TO SAVEPOINT whole');
    }

    /** @return iterable<string, array{string}> */
    public static function breaks(): iterable
    {
        $line =
            "(SELECT MIN(l.id) FROM journal_line l JOIN account a ON a.id = l.account_id WHERE a.role = 'receivables')";
        yield 'an amount in the ledger' => ["UPDATE journal_line SET base = base + 100 WHERE id = $line"];
        yield 'a line on another day' => [
            "UPDATE journal_line SET posting_date = posting_date - INTERVAL 40 DAY WHERE id = $line",
        ];
        yield 'a line on another account' => [
            "UPDATE journal_line SET account_id = (SELECT id FROM account WHERE number = '1000' LIMIT 1) WHERE id = $line",
        ];
        yield 'a line lost' => ["DELETE FROM journal_line WHERE id = $line"];
        yield 'an item’s amount' => ['UPDATE open_item SET original_base = original_base - 7 ORDER BY id LIMIT 1'];
        yield 'an item on another day' => [
            'UPDATE open_item SET posting_date = posting_date + INTERVAL 20 DAY ORDER BY id LIMIT 1',
        ];
        yield 'a settlement’s line lost' => ['DELETE FROM settlement_line ORDER BY id LIMIT 1'];
        yield 'a settlement on another day' => [
            'UPDATE settlement SET settled_on = settled_on - INTERVAL 25 DAY ORDER BY id LIMIT 1',
        ];
        yield 'an undo forgotten' => [
            'UPDATE settlement SET undone_on = NULL WHERE undone_on IS NOT NULL ORDER BY id LIMIT 1',
        ];
        yield 'a settled item’s amount' => [
            'UPDATE open_item SET original_base = original_base - 50 WHERE open = 0 ORDER BY id LIMIT 1',
        ];
        yield 'two sources wrong by the same' => [
            'UPDATE journal_line l JOIN (SELECT MIN(l.id) AS low, MAX(l.id) AS high FROM journal_line l JOIN account a '.
            "ON a.id = l.account_id WHERE a.role = 'receivables') x ON l.id IN (x.low, x.high) ".
            'SET l.base = l.base + IF(l.id = x.low, 50, -50)',
        ];
    }

    /** @return array<string, int> what the control accounts hold by party, in the sign of the side; nothing where it is zero */
    private function entriesOf(Side $side, Day $day): array
    {
        $rows = $this->db()->fetchAllKeyValue(
            <<<'SQL'
            SELECT l.party_id, SUM(l.base)
            FROM journal_line l
            JOIN account a ON a.id = l.account_id
            JOIN party p ON p.id = l.party_id
            WHERE a.company_id = ? AND p.side = ? AND l.posting_date <= ?
                AND a.role IN ('payables', 'receivables', 'vendor_prepayments', 'customer_prepayments', 'refunds_payable')
            GROUP BY l.party_id
            ORDER BY l.party_id
            SQL
            ,
            [$this->clerk->companyId, $side->value, $day->iso()],
        );
        $sign = Side::Receivables === $side ? 1 : -1;
        $held = [];
        foreach ($rows as $party => $base) {
            if (0 !== (int) $base) {
                $held[(string) $party] = $sign * (int) $base;
            }
        }

        return $held;
    }

    /** @return list<array{string, int}> day and gain of each settlement that stands, in their order */
    private function play(int $seed, bool $revalue): array
    {
        mt_srand($seed);
        foreach (
            ['2026-01-01' => '1.10', '2026-02-27' => '1.16', '2026-04-15' => '1.04', '2026-05-29' => '1.13'] as $day => $rate
        ) {
            self::get(SaveRate::class)->save(
                $this->clerk,
                Day::of($day),
                'EUR',
                'USD',
                BigDecimal::of($rate),
                'typed',
                null,
            );
        }
        for ($n = 0; $n < 140; ++$n) {
            $side = Side::cases()[mt_rand(0, 1)];
            $currency = ['USD', 'EUR'][mt_rand(0, 1)];
            $day = Day::of('2026-01-02')->plusDays(mt_rand(0, 160));
            $amount = mt_rand(100, 90_000);
            $step = mt_rand(0, 9);
            $pick = mt_rand(0, 1_000_000);
            try {
                match (true) {
                    $step < 4 => $this->entered($side, $currency, $day, $amount, 3 === $step, $n),
                    $step < 5 => $this->came($side, $currency, $day, $amount),
                    $step < 7 => $this->set($side, $currency, $pick, $amount),
                    $step < 8 => $this->undone($pick),
                    $step < 9 => $revalue ? $this->revalue($pick) : null,
                    default => $revalue ? $this->takeBack($pick) : null,
                };
            } catch (Refused $e) {
                self::assertNotSame('', $e->getMessage());
            }
        }

        return array_map(
            static fn (array $r): array => [(string) $r[0], (int) $r[1]],
            $this->db()->fetchAllNumeric(
                'SELECT settled_on, exchange FROM settlement WHERE company_id = ? AND undone_on IS NULL ORDER BY id',
                [$this->clerk->companyId],
            ),
        );
    }

    private function entered(Side $side, string $currency, Day $day, int $amount, bool $credit, int $n): void
    {
        $this->invoice($side, \sprintf('%d.%02d', intdiv($amount, 100), $amount % 100), [
            'document_date' => $day->iso(),
            'posting_date' => $day->iso(),
            'currency' => $currency,
            'terms' => 'N30',
            'kind' => $credit ? 'credit_note' : 'invoice',
            'number' => Side::Payables === $side ? $this->clerk->companyId.'-'.$n : '',
        ]);
    }

    private function came(Side $side, string $currency, Day $day, int $amount): void
    {
        $kind = Side::Receivables === $side ? DocumentKind::Receipt : DocumentKind::Payment;
        $this->money($side, $amount, [], [], $day->iso(), $kind, $currency);
    }

    private function set(Side $side, string $currency, int $pick, int $most): void
    {
        $of = fn (string $sign): array => $this->db()->fetchAllAssociative(
            "SELECT id, open, posting_date FROM open_item WHERE company_id = ? AND side = ? AND currency = ? AND open $sign 0 ORDER BY id",
            [$this->clerk->companyId, $side->value, $currency],
        );
        [$owed, $credits] = [$of('>'), $of('<')];
        if ([] === $owed || [] === $credits) {
            return;
        }
        [$o, $c] = [$owed[$pick % \count($owed)], $credits[$pick % \count($credits)]];
        $amount = (int) min($most, $o['open'], -$c['open']);
        $day = Day::latest(Day::of((string) $o['posting_date']), Day::of((string) $c['posting_date']));
        self::get(SettleItems::class)->settle(
            $this->clerk,
            new SettlementRequest(
                $side,
                [new PlacementRequest((int) $o['id'], $amount), new PlacementRequest((int) $c['id'], -$amount)],
                [],
                $day->plusDays($pick % 9),
            ),
        );
    }

    private function undone(int $pick): void
    {
        $standing = $this->db()->fetchAllNumeric(
            'SELECT id, settled_on FROM settlement WHERE company_id = ? AND undone_on IS NULL ORDER BY id',
            [$this->clerk->companyId],
        );
        if ([] !== $standing) {
            [$id, $on] = $standing[$pick % \count($standing)];
            self::get(UndoSettlement::class)->undo(
                $this->clerk,
                (int) $id,
                Day::of((string) $on)->plusDays($pick % 25),
                'wrong one',
            );
        }
    }

    private function revalue(int $pick): void
    {
        $day = Day::of(\sprintf('2026-%02d-01', 1 + ($pick % 5)))->endOfMonth();
        $proposed = self::get(ProposeRevaluation::class)->of($this->clerk->companyId, 'USD', $day);
        $this->revalued[] = self::get(PostRevaluation::class)->post($this->clerk, $day, $proposed->digest());
    }

    private function takeBack(int $pick): void
    {
        if ([] !== $this->revalued) {
            self::get(PostRevaluation::class)->undo(
                $this->clerk,
                $this->revalued[$pick % \count($this->revalued)],
                'another rate',
            );
        }
    }
}
