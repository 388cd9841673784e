<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Banking\Reconcile\Reconciled;
use Nelbix\App\Banking\Reconcile\ReconcileQuery;
use Nelbix\App\Banking\Reconcile\SignOff;
use Nelbix\App\Banking\Statement\Choice;
use Nelbix\App\Banking\Statement\PartKind;
use Nelbix\App\Banking\Statement\PlaceLine;
use Nelbix\App\Banking\Statement\UndoLine;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** Bank and ledger as of a day; what lies between them is named, and signed off as it was seen. Source: common practice. */
final class ReconcileTest extends StatementCase
{
    private function is(string $day = self::DAY): Reconciled
    {
        $is = self::get(ReconcileQuery::class)->of($this->bank(), Day::of($day)) ?? self::fail('there is a statement');
        self::assertSame($is->ledger, $is->counted(), 'everything is named');

        return $is;
    }

    private function joined(int $line, int $entry, int $amount): void
    {
        self::get(PlaceLine::class)->place(
            $this->clerk,
            $line,
            new Choice(PartKind::Joined, $amount, entries: [[$entry, $amount]]),
        );
    }

    private function lastEntry(): int
    {
        return (int) $this->db()->fetchOne(
            'SELECT MAX(l.entry_id) FROM journal_line l JOIN bank_account b ON b.account_id = l.account_id WHERE b.id = ?',
            [$this->bank()->id],
        );
    }

    /** The textbook layout: bank 500.00 + deposits 70.00 − payments 30.00 = ledger 540.00. */
    public function testPaymentsAndDepositsOnTheWay(): void
    {
        $this->money(Side::Receivables, 50_000, date: '2026-06-12');
        $entry = $this->lastEntry();
        $this->take(self::statement([self::line(50_000, 'x', [], '2026-06-12')], 0, '2026-06-01', self::DAY));
        $this->joined($this->lineOf(50_000), $entry, 50_000);
        $this->money(Side::Receivables, 7_000);
        $this->money(Side::Payables, 3_000, kind: DocumentKind::Payment);
        $is = $this->is();
        self::assertSame(
            [50_000, 7_000, -3_000, 54_000, 0],
            [$is->bank, $is->deposits(), $is->payments(), $is->ledger, $is->named()],
        );
        // as of the day before neither had moved
        self::assertSame(
            [50_000, 50_000, 0],
            [$this->is('2026-06-14')->bank, $this->is('2026-06-14')->ledger, \count($this->is('2026-06-14')->onTheWay)],
        );
        // and as of the eleventh nothing had
        self::assertSame([0, 0], [$this->is('2026-06-11')->bank, $this->is('2026-06-11')->ledger]);
    }

    public function testLinesWithoutAPlaceAndWhatWasBeforeAreNamed(): void
    {
        $this->money(Side::Receivables, 90_000, date: '2026-05-20');
        $this->take(self::statement([self::line(-1_850, 'FEE', [], '2026-06-12')], 80_000, '2026-06-01', self::DAY));
        $is = $this->is();
        self::assertSame([78_150, -1_850, 10_000, 2], [$is->bank, $is->linesWaiting(), $is->carried, $is->named()]);
        // it turns out that one of before was still on its way then
        $this->money(Side::Receivables, 4_000, date: '2026-05-30');
        $entry = $this->lastEntry();
        self::assertSame(14_000, $this->is()->carried);
        $this->take(self::statement([self::line(4_000, 'late', [], '2026-06-16')], 78_150, '2026-06-16', '2026-06-16'));
        $this->joined($this->lineOf(4_000), $entry, 4_000);
        self::assertSame([10_000, 4_000], [$this->is()->carried, $this->is()->deposits()]);
        self::assertSame([10_000, 0], [$this->is('2026-06-16')->carried, $this->is('2026-06-16')->deposits()]);
    }

    public function testAReversedMistakeIsOnNoSide(): void
    {
        $this->take(self::statement([self::line(1_00, 'x')]));
        $receipt = $this->money(Side::Receivables, 5_000, date: '2026-06-12');
        self::get(ReverseDocument::class)->reverse($this->clerk, $receipt, 'typed twice');
        self::assertSame([], $this->is()->onTheWay);
    }

    /** What the bank sent back moved both ways, and stands on its statement twice; what it rejected never moved. */
    public function testWhatTheBankSentBackIsOnBothSides(): void
    {
        $this->take(self::statement([self::line(1_00, 'x')]));
        $ways = [];
        foreach (HowTakenBack::cases() as $how) {
            $payment = $this->money(Side::Payables, 3_000, kind: DocumentKind::Payment);
            self::get(ReverseDocument::class)->event($this->clerk, $payment, Day::of(self::DAY), $how, 'it is', true);
            self::assertSame(
                $how->value,
                $this->db()->fetchOne('SELECT taken_back FROM document WHERE id = ?', [$payment]),
                'in its whole word',
            );
            $now = array_column($this->is()->onTheWay, 'amount');
            $ways[$how->value] = \array_slice($now, array_sum(array_map(\count(...), $ways)));
        }
        $back = [-3_000, 3_000];
        self::assertSame(
            [
                'reversed' => [],
                'voided' => [],
                'stopped' => [],
                'bounced' => $back,
                'returned by the bank' => $back,
                'rejected by the bank' => [],
                'withdrawn' => [],
            ],
            $ways,
        );
    }

    public function testSignOffKeepsWhatWasSeen(): void
    {
        $this->take(self::statement([self::line(50_000, 'x')]));
        $bank = $this->bank()->id;
        $sign = fn (string $seen, bool $named): string => self::said(
            fn () => self::get(SignOff::class)->sign($this->clerk, $bank, Day::of(self::DAY), $seen, $named),
        );
        $seen = $this->is()->digest();
        self::assertStringContainsString('left over', $sign($seen, false));
        $this->money(Side::Receivables, 1_000);
        self::assertStringContainsString('since you looked', $sign($seen, true));
        self::assertSame('done', $sign($this->is()->digest(), true));
        self::assertStringContainsString('signed off already', $sign($this->is()->digest(), true));
        $late = $this->is('2026-06-16')->digest();
        self::assertStringContainsString(
            'reach through 15 Jun 2026',
            self::said(
                fn () => self::get(SignOff::class)->sign($this->clerk, $bank, Day::of('2026-06-16'), $late, true),
            ),
        );
        // what is posted later shows, and changes nothing of what was signed
        $this->money(Side::Receivables, 2_000, date: '2026-06-14');
        $page = $this->page('/TEST/bank/'.$bank.'/reconcile');
        self::assertStringContainsString('moved by 20.00', $page->filter('main')->text());
        self::assertCount(0, $page->filter('#sign'), 'signed off already');
        self::assertCount(1, $this->page('/TEST/bank/'.$bank.'/reconcile?as_of=2026-06-14')->filter('#sign'));
        $id = (int) $this->db()->fetchOne('SELECT id FROM reconciliation');
        $frozen = (array) json_decode((string) $this->db()->fetchOne('SELECT frozen FROM reconciliation'), true);
        self::assertSame([50_000, 1_000], [$frozen['bank'], $frozen['ledger']]);
        $this->browser->request('GET', '/TEST/bank/'.$bank.'/reconcile/report?id='.$id);
        self::assertSame('application/pdf', $this->browser->getResponse()->headers->get('Content-Type'));
        self::assertStringContainsString(
            'Say why',
            self::said(fn () => self::get(SignOff::class)->withdraw($this->clerk, $bank, $id, ' ')),
        );
        self::assertSame(
            'done',
            self::said(fn () => self::get(SignOff::class)->withdraw($this->clerk, $bank, $id, 'the fee was forgotten')),
        );
        self::assertStringContainsString(
            'taken back already',
            self::said(fn () => self::get(SignOff::class)->withdraw($this->clerk, $bank, $id, 'x')),
        );
        self::assertSame('done', $sign($this->is()->digest(), true));
    }

    /** Random weeks of payments, statements, placings and undos: on every day everything is named. */
    public function testOnEveryDayEverythingIsNamed(): void
    {
        mt_srand(20260615);
        $closing = 0;
        for ($week = 0; $week < 6; ++$week) {
            $monday = Day::of('2026-04-06')->plusDays(7 * $week);
            $lines = [];
            for ($n = 0; $n < 5; ++$n) {
                $amount = 100 * mt_rand(1, 999) + $week * 7 + $n;
                $day = $monday->plusDays(mt_rand(0, 6));
                if (mt_rand(0, 3) > 0) {
                    $this->money(Side::Receivables, $amount, date: $day->iso());
                }
                if (mt_rand(0, 3) > 0) {
                    $lines[] = self::line(
                        $amount,
                        'n',
                        [],
                        $day->plusDays(mt_rand(0, 6 - (int) $monday->daysUntil($day)))->iso(),
                    );
                }
            }
            $to = $monday->plusDays(6)->iso();
            $this->take(self::statement($lines, $closing, $monday->iso(), $to));
            $closing += array_sum(array_map(static fn ($l): int => $l->amount, $lines));
            foreach ($lines as $line) {
                $id = $this->lineOf($line->amount);
                $options = $this->options($line->amount);
                if ([] !== $options && mt_rand(0, 4) > 0) {
                    self::get(PlaceLine::class)->place($this->clerk, $id, $options[0]->choice);
                    if (0 === mt_rand(0, 3)) {
                        self::get(UndoLine::class)->undo($this->clerk, $id, 'tried');
                    }
                }
            }
        }
        for ($day = Day::of('2026-04-05'); !$day->isAfter(Day::of('2026-05-20')); $day = $day->plusDays(1)) {
            $this->is($day->iso());
        }
    }
}
