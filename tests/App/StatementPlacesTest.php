<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Banking\Statement\Choice;
use Nelbix\App\Banking\Statement\PartKind;
use Nelbix\App\Banking\Statement\PlaceLine;
use Nelbix\App\Banking\Statement\PreviewLines;
use Nelbix\App\Banking\Statement\StatementQuery;
use Nelbix\App\Banking\Statement\UndoLine;
use Nelbix\App\Banking\VoidCheck;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Ledger\Chart;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** Lines of statements find their places, take them and give them back; nothing is booked twice. Source: rules.md, Bank statements. */
final class StatementPlacesTest extends StatementCase
{
    private function place(int $amount, ?Choice $choice = null): string
    {
        return self::said(
            fn () => self::get(PlaceLine::class)->place(
                $this->clerk,
                $this->lineOf($amount),
                $choice ?? ($this->options($amount)[0]->choice ?? self::fail('nothing was found')),
            ),
        );
    }

    /** 500.00 received before is joined: the bank's balance in the ledger does not move again. */
    public function testWhatWasRecordedBeforeIsJoinedAndNotBookedAgain(): void
    {
        $receipt = $this->money(Side::Receivables, 50_000, date: '2026-06-12');
        $before = $this->balance('1000');
        $this->take(self::statement([self::line(50_000, 'thank you')]));
        [$options, $sure] = $this->found(50_000);
        self::assertTrue($sure);
        self::assertSame('done', $this->place(50_000, $options[0]->choice));
        self::assertSame($before, $this->balance('1000'));
        self::assertSame(0, $this->waiting($this->lineOf(50_000)));
        // and not by another line, nor reversed as a mistake
        $this->take(
            self::statement(
                [self::line(50_000, 'thank you again', [], '2026-06-16')],
                50_000,
                '2026-06-16',
                '2026-06-16',
            ),
        );
        $second = (int) $this->db()->fetchOne('SELECT MAX(id) FROM statement_line');
        self::assertStringContainsString(
            'stands on a statement already',
            self::said(fn () => self::get(PlaceLine::class)->place($this->clerk, $second, $options[0]->choice)),
        );
        self::assertStringContainsString(
            'undo that line first',
            self::said(fn () => self::get(ReverseDocument::class)->reverse($this->clerk, $receipt, 'a mistake')),
        );
        $first = (int) $this->db()->fetchOne('SELECT MIN(id) FROM statement_line');
        self::assertSame(0, self::get(UndoLine::class)->undo($this->clerk, $first, ''));
        self::assertSame(50_000, $this->waiting($first));
        self::assertSame(
            'done',
            self::said(fn () => self::get(ReverseDocument::class)->reverse($this->clerk, $receipt, 'a mistake')),
        );
    }

    /** Bank 985.00, recorded 1,000.00: 15.00 to bank charges, in the same row. */
    public function testADifferenceGetsItsAccount(): void
    {
        $this->money(Side::Receivables, 100_000, date: '2026-06-12');
        $number = (string) $this->db()->fetchOne('SELECT MAX(number) FROM document WHERE kind = ?', ['receipt']);
        $this->take(self::statement([self::line(98_500, 'ref '.$number)]));
        [$options, $sure] = $this->found(98_500);
        self::assertFalse($sure);
        self::assertSame(-1_500, $options[0]->off);
        self::assertStringContainsString('say which account', $this->place(98_500, $options[0]->choice));
        self::assertSame('done', $this->place(98_500, $options[0]->choice->withDifference('6800')));
        self::assertSame(1_500, $this->balance('6800'));
        self::assertSame(98_500, $this->balance('1000'));
        self::assertSame(1, self::get(UndoLine::class)->undo($this->clerk, $this->lineOf(98_500), 'wrong line'));
        self::assertSame(0, $this->balance('6800'));
        self::assertSame(100_000, $this->balance('1000'));
    }

    public function testOpenItemsAreSettledByWhatTheTextNames(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '980.00'));
        $number = (string) $this->db()->fetchOne('SELECT number FROM open_item WHERE id = ?', [$item]);
        $this->take(self::statement([self::line(98_000, 'invoice '.$number, ['party' => 'somebody'])]));
        [$options, $sure] = $this->found(98_000);
        self::assertTrue($sure);
        self::assertStringContainsString('its text names '.$number, $options[0]->reason);
        self::assertSame('done', $this->place(98_000, $options[0]->choice));
        self::assertSame(0, $this->open($item));
        self::assertSame(98_000, $this->balance('1000'));
        self::assertStringContainsString('has its place already', $this->place(98_000, $options[0]->choice));
        self::get(UndoLine::class)->undo($this->clerk, $this->lineOf(98_000), 'not theirs');
        self::assertSame(98_000, $this->open($item));
        self::assertSame(0, $this->balance('1000'));
    }

    public function testALineGoesToAccountsWithItsTax(): void
    {
        // 108.00 with 8 % in it: 100.00 and 8.00
        $this->take(self::statement([self::line(-10_800, 'STAMPS')]));
        $part = [
            'account' => '6400',
            'amount' => -10_800,
            'tax' => 'P8',
            'cost_center' => '',
            'department' => '',
            'project' => '',
            'text' => 'stamps',
        ];
        $choice = new Choice(PartKind::Accounts, -10_800, parts: [$part]);
        self::assertSame([], $this->options(-10_800));
        self::assertSame('done', $this->place(-10_800, $choice));
        self::assertSame(
            [10_000, 800, -10_800],
            [$this->balance('6400'), $this->balance('1300'), $this->balance('1000')],
        );
    }

    public function testAnAccountThatIsNoneAndPartsThatDoNotAddUpAreNamed(): void
    {
        $this->take(self::statement([self::line(-10_800, 'STAMPS')]));
        $part = [
            'account' => '2100',
            'amount' => -10_800,
            'tax' => '',
            'cost_center' => '',
            'department' => '',
            'project' => '',
            'text' => '',
        ];
        self::assertStringContainsString(
            'control account',
            $this->place(-10_800, new Choice(PartKind::Accounts, -10_800, parts: [$part])),
        );
        $part['account'] = '6400';
        $part['amount'] = -10_700;
        self::assertStringContainsString(
            'do not add up',
            $this->place(-10_800, new Choice(PartKind::Accounts, -10_800, parts: [$part])),
        );
        $more = new Choice(PartKind::Accounts, -10_900, parts: [[...$part, 'amount' => -10_900]]);
        self::assertStringContainsString('between nothing and what is left', $this->place(-10_800, $more));
        self::assertSame(0, $this->balance('1000'));
    }

    /** A check shows on the statement: from then on nothing voids it, whichever way. */
    public function testAClearedCheckCannotBeVoided(): void
    {
        $this->invoice(Side::Payables, '300.00', ['document_date' => '2026-05-01']);
        $this->postRun($this->printedRun());
        $check = $this->db()->fetchAssociative("SELECT * FROM bank_check WHERE state = 'issued'") ?: self::fail();
        $this->take(
            self::statement([self::line(-(int) $check['amount'], 'CHECK', ['check' => '0'.$check['number']])]),
        );
        [$options, $sure] = $this->found(-(int) $check['amount']);
        self::assertTrue($sure);
        self::assertSame('done', $this->place(-(int) $check['amount'], $options[0]->choice));
        self::assertSame('cleared', $this->db()->fetchOne('SELECT state FROM bank_check WHERE id = ?', [$check['id']]));
        $void = fn (): string => self::said(
            fn () => self::get(VoidCheck::class)->void(
                $this->clerk,
                (int) $check['check_book_id'],
                (int) $check['number'],
                Day::of(self::DAY),
                'lost',
                false,
            ),
        );
        self::assertStringContainsString('is cleared', $void());
        foreach (['reverse', 'event'] as $way) {
            self::assertStringContainsString(
                'reverse' === $way ? 'undo that settlement first' : 'undo that line first',
                self::said(
                    fn () => 'reverse' === $way
                        ? self::get(ReverseDocument::class)->reverse($this->clerk, (int) $check['document_id'], 'x')
                        : self::get(ReverseDocument::class)->event(
                            $this->clerk,
                            (int) $check['document_id'],
                            Day::of(self::DAY),
                            HowTakenBack::Voided,
                            'x',
                        ),
                ),
                $way,
            );
        }
        self::get(UndoLine::class)->undo($this->clerk, $this->lineOf(-(int) $check['amount']), '');
        self::assertSame('issued', $this->db()->fetchOne('SELECT state FROM bank_check WHERE id = ?', [$check['id']]));
        self::assertSame('done', $void());
    }

    /** Two lines for one receipt: each takes its part, and a third finds nothing left. */
    public function testSeveralLinesToOneRecord(): void
    {
        $this->money(Side::Receivables, 100_000, date: '2026-06-12');
        $this->take(self::statement([self::line(60_000, 'a'), self::line(40_000, 'b'), self::line(500, 'c')]));
        $entry = (int) $this->db()->fetchOne('SELECT MAX(id) FROM journal_entry');
        $join = static fn (int $amount): Choice => new Choice(PartKind::Joined, $amount, entries: [[$entry, $amount]]);
        self::assertSame('done', $this->place(60_000, $join(60_000)));
        self::assertSame('done', $this->place(40_000, $join(40_000)));
        self::assertStringContainsString('already', $this->place(500, $join(500)));
    }

    /** Nothing else speaks for two records that fit equally, so none is marked. */
    public function testTwoThatFitAreShownAndNoneIsMarked(): void
    {
        $this->money(Side::Receivables, 50_000, date: '2026-06-12');
        $this->money(Side::Receivables, 50_000, [], [], '2026-06-13', DocumentKind::Prepayment);
        $this->take(self::statement([self::line(50_000, 'thank you')]));
        [$options, $sure] = $this->found(50_000);
        self::assertCount(2, $options);
        self::assertFalse($sure);
    }

    /** The bank's line stands twice: one record is given to neither. */
    public function testWhatTwoLinesWantIsMarkedForNeither(): void
    {
        $this->money(Side::Receivables, 50_000, date: '2026-06-12');
        $this->take(self::statement([self::line(50_000, 'T-1'), self::line(50_000, 'T-1', ['bankReference' => 'B2'])]));
        $found = self::get(\Nelbix\App\Banking\Statement\FindPlaces::class)->of($this->bank(), $this->clerk->companyId);
        self::assertSame([false, false], array_values(array_map(static fn ($f): bool => $f->sure, $found)));
    }

    /** A receipt bounces on the statement: what it settled is open again, and the bank falls by it once. */
    public function testABouncedReceipt(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '700.00'));
        $this->money(Side::Receivables, 70_000, [new PlacementRequest($item, 70_000)], date: '2026-06-12');
        $number = (string) $this->db()->fetchOne("SELECT MAX(number) FROM document WHERE kind = 'receipt'");
        $this->take(self::statement([self::line(70_000, $number), self::line(-70_000, 'RETURNED '.$number)]));
        self::assertSame('done', $this->place(70_000));
        $choice = $this->options(-70_000)[0]->choice;
        self::assertSame(PartKind::Bounce, $choice->kind);
        $row = self::get(StatementQuery::class)->picked($this->bank()->id, [$this->lineOf(-70_000)])[0];
        $shown = self::get(PreviewLines::class)->of($this->clerk, $this->bank(), [
            ['line' => $row, 'choice' => $choice],
        ]);
        $before = [$this->balance('1000'), $this->balance('1200')];
        self::assertSame('done', $this->place(-70_000));
        $moved = [$this->balance('1000') - $before[0], $this->balance('1200') - $before[1]];
        self::assertSame([-70_000, 70_000], $moved);
        $panel = array_fill_keys(['1000', '1200'], 0);
        foreach ($shown['draft']->lines ?? [] as $l) {
            $panel[self::get(Chart::class)->account($this->clerk->companyId, $l->account)['number']] += $l->base;
        }
        self::assertSame($moved, array_values($panel), 'the panel shows what is booked');
        self::assertSame(70_000, $this->open($item));
        self::assertSame(0, $this->balance('1000'));
    }

    /** 985.00 for an invoice of 1,000.00: a bank on the way kept 15.00, in the same row. */
    public function testAFeeThatABankOnTheWayKept(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '1000.00', ['terms' => 'N30']));
        $this->take(self::statement([self::line(98_500, 'thank you', ['party' => 'Gannet Sailing School'])]));
        [$options, $sure] = $this->found(98_500);
        self::assertFalse($sure);
        self::assertStringContainsString('less 15.00 that a bank kept', $options[0]->label);
        self::assertSame('done', $this->place(98_500, $options[0]->choice));
        self::assertSame([0, 1_500, 98_500], [$this->open($item), $this->balance('6800'), $this->balance('1000')]);
        self::get(UndoLine::class)->undo($this->clerk, $this->lineOf(98_500), 'not theirs');
        self::assertSame([100_000, 0, 0], [$this->open($item), $this->balance('6800'), $this->balance('1000')]);
    }

    /** 1,000.00 EUR invoiced at 1.10 and come as 1,080.00 USD: control 1,100.00, loss 20.00. Source: rules.md, Settlements. */
    public function testForeignMoneyAtTheBanksRate(): void
    {
        foreach (['2026-06-01' => '1.10', '2026-06-14' => '1.08'] as $day => $rate) {
            $this->db()->insert('exchange_rate', [
                'company_id' => $this->clerk->companyId,
                'valid_on' => $day,
                'from_currency' => 'EUR',
                'to_currency' => 'USD',
                'rate' => $rate,
            ]);
        }
        $item = $this->itemOf($this->invoice(Side::Receivables, '1000.00', ['terms' => 'N30', 'currency' => 'EUR']));
        $number = (string) $this->db()->fetchOne('SELECT number FROM open_item WHERE id = ?', [$item]);
        $this->take(self::statement([self::line(108_000, 'invoice '.$number)]));
        [$options, $sure] = $this->found(108_000);
        self::assertFalse($sure);
        self::assertStringContainsString('over 1,000.00 EUR', $options[0]->label);
        self::assertSame('done', $this->place(108_000, $options[0]->choice));
        self::assertSame(
            [0, 108_000, 2_000, 0],
            [$this->open($item), $this->balance('1000'), $this->balance('7900'), $this->balance('1200')],
        );
    }
}
