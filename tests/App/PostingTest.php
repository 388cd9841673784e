<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\LookAlikes;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Ledger\LockPeriod;
use Nelbix\App\Ledger\PostJournalEntry;
use Nelbix\App\Platform\FormKey;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;

final class PostingTest extends AppCase
{
    public function testVendorInvoicePostsDocumentItemAndEntry(): void
    {
        $id = $this->invoice(Side::Payables, '1000.00', [
            'lines' => [
                ['account' => '5000', 'amount' => '1000.00', 'tax_code' => 'P8'],
                ['account' => '5200', 'amount' => '50.00'],
            ],
        ]);
        self::assertSame(
            [-113000, 100000, 5000, 8000],
            [$this->balance('2100'), $this->balance('5000'), $this->balance('5200'), $this->balance('1300')],
        );
        $item = $this->db()->fetchAssociative('SELECT * FROM open_item WHERE document_id = ?', [$id]) ?: self::fail();
        self::assertSame(['113000', '2026-07-10'], [(string) $item['open'], $item['due_date']]);
        self::assertSame(
            [['2026-06-20', 2260]],
            array_map(
                static fn (array $r): array => [$r['through'], (int) $r['amount']],
                $this->db()->fetchAllAssociative('SELECT through, amount FROM item_discount'),
            ),
        );
        self::assertSame('VI-26-00001', $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$id]));
    }

    public function testReceiptWithDiscountAndRestUnapplied(): void
    {
        $a = $this->itemOf($this->invoice(Side::Receivables, '1000.00'));
        $b = $this->itemOf($this->invoice(Side::Receivables, '400.00'));
        $receipt = $this->money(
            Side::Receivables,
            147000,
            [new PlacementRequest($a, 100000), new PlacementRequest($b, 40000)],
            [new AdjustmentRequest($a, AdjustmentKind::Discount, -2000)],
        );
        // commands.md: one receipt of 1,470.00, 1,000.00 closed with 980.00 and 20.00 discount, 400.00 closed, 90.00 unapplied
        self::assertSame([0, 0, -9000], [$this->open($a), $this->open($b), $this->open($this->itemOf($receipt))]);
        self::assertSame(
            [147000, 2000, -9000],
            [$this->balance('1000'), $this->balance('4900'), $this->balance('1200')],
        );

        $settlement = (int) $this->db()->fetchOne('SELECT id FROM settlement');
        self::get(UndoSettlement::class)->undo($this->clerk, $settlement);
        self::assertSame(
            [100000, 40000, -147000],
            [$this->open($a), $this->open($b), $this->open($this->itemOf($receipt))],
        );
        self::assertSame([147000, 0], [$this->balance('1000'), $this->balance('4900')]);
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(UndoSettlement::class)->undo($this->clerk, $settlement)),
        );
    }

    public function testBouncedReceiptOpensEverythingOnItsOwnDay(): void
    {
        // rules.md: bounced receipt, after 980.00 with 20.00 discount
        $a = $this->itemOf($this->invoice(Side::Receivables, '1000.00'));
        $receipt = $this->money(
            Side::Receivables,
            98000,
            [new PlacementRequest($a, 100000)],
            [new AdjustmentRequest($a, AdjustmentKind::Discount, -2000)],
        );
        self::get(ReverseDocument::class)->event(
            $this->clerk,
            $receipt,
            Day::of('2026-06-18'),
            HowTakenBack::Bounced,
            'no funds',
        );
        self::assertSame(
            [100000, 0, 0, 100000],
            [$this->open($a), $this->balance('1000'), $this->balance('4900'), $this->balance('1200')],
        );
        self::assertSame(
            ['date'],
            self::refusedFields(function () use ($a): void {
                $again = $this->money(Side::Receivables, 100000, [new PlacementRequest($a, 100000)], [], '2026-06-20');
                self::get(ReverseDocument::class)->event(
                    $this->clerk,
                    $again,
                    Day::of('2026-06-19'),
                    HowTakenBack::Bounced,
                    'no funds',
                );
            }),
        );
    }

    public function testReversalFreesTheNumberAndIsRefusedWhileSettled(): void
    {
        $first = $this->invoice(Side::Payables, '500.00', ['number' => 'X-1']);
        self::assertSame(
            ['number'],
            self::refusedFields(fn () => $this->invoice(Side::Payables, '70.00', ['number' => 'x-1'])),
        );
        $payment = $this->money(
            Side::Payables,
            10000,
            [new PlacementRequest($this->itemOf($first), 10000)],
            [],
            self::DAY,
            DocumentKind::Payment,
        );
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(ReverseDocument::class)->reverse($this->clerk, $first, 'wrong')),
        );
        self::get(UndoSettlement::class)->undo(
            $this->clerk,
            (int) $this->db()->fetchOne('SELECT id FROM settlement WHERE document_id = ?', [$payment]),
        );
        $reversal = self::get(ReverseDocument::class)->reverse($this->clerk, $first, 'wrong');
        self::assertSame(
            [''],
            self::refusedFields(
                fn () => self::get(UndoSettlement::class)->undo(
                    $this->clerk,
                    (int) $this->db()->fetchOne('SELECT id FROM settlement WHERE document_id = ?', [$reversal]),
                ),
            ),
            'what a reversal settled stands with it',
        );
        self::assertSame(0, $this->open($this->itemOf($first)));
        $this->invoice(Side::Payables, '70.00', ['number' => 'X-1']);
        self::assertSame(0, $this->balance('5000') - 7000);
    }

    public function testNothingIsPostedIntoALockedPeriod(): void
    {
        $period = (int) $this->db()->fetchOne('SELECT id FROM period WHERE company_id = ? AND first_day = ?', [
            $this->clerk->companyId,
            '2026-06-01',
        ]);
        self::get(LockPeriod::class)->set($this->clerk, $period, 'payables', true, 'the month is done');
        self::assertSame(['posting_date'], self::refusedFields(fn () => $this->invoice(Side::Payables, '10.00')));
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'));
        $this->invoice(Side::Receivables, '10.00');
        self::get(LockPeriod::class)->set($this->clerk, $period, 'ledger', true, 'the month is done');
        self::assertSame(['posting_date'], self::refusedFields(fn () => $this->invoice(Side::Receivables, '10.00')));
        self::assertSame(1, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM journal_entry'));
    }

    public function testBadInvoicesNameEveryFieldAndSaveNothing(): void
    {
        $post = fn (array $raw): array => self::refusedFields(
            fn () => self::get(PostInvoice::class)->post(
                $this->clerk,
                self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, $raw),
            ),
        );
        $good = [
            'party' => 'V-1',
            'number' => 'Z',
            'document_date' => '.',
            'lines' => [['account' => '5000', 'amount' => '10']],
        ];
        self::assertSame(
            ['party', 'document_date', 'lines.0.account', 'lines.0.amount', 'number'],
            $post([
                'party' => 'nobody',
                'document_date' => '31/31',
                'lines' => [['account' => '9', 'amount' => '1.005']],
            ]),
        );
        self::assertSame(['stated_total'], $post(['stated_total' => '11', ...$good]), 'lines that do not add up');
        self::assertSame(
            ['lines'],
            $post([...$good, 'lines' => [['account' => '5000', 'amount' => '-10']]]),
            'negative document total',
        );
        self::assertSame(
            ['lines.0.account'],
            $post([...$good, 'lines' => [['account' => '2100', 'amount' => '10']]]),
            'control account',
        );
        self::assertSame(['rate'], $post([...$good, 'currency' => 'EUR']), 'no rate known');
        self::assertSame(
            ['tax'],
            $post([
                ...$good,
                'lines' => [['account' => '5000', 'amount' => '10', 'tax_code' => 'P8']],
                'tax' => ['P8' => '0.90'],
            ]),
            'tax beyond the tolerance',
        );
        self::assertSame(0, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM document'));
    }

    public function testScriptTagsAreTextEverywhere(): void
    {
        $tag = '<script>alert(1)</script>';
        $id = $this->invoice(Side::Payables, '10.00', [
            'number' => $tag,
            'description' => $tag,
            'lines' => [['account' => '5000', 'amount' => '10.00', 'text' => $tag]],
        ]);
        self::assertSame($tag, $this->db()->fetchOne('SELECT their_number FROM document WHERE id = ?', [$id]));
    }

    public function testInstalmentsBecomeItems(): void
    {
        $id = $this->invoice(Side::Payables, '1000.01', ['terms' => 'THIRDS', 'document_date' => '2026-03-31']);
        self::assertSame(
            ['VI-26-00001/1 30000 2026-04-30', 'VI-26-00001/2 30000 2026-05-30', 'VI-26-00001/3 40001 2026-06-29'],
            $this->db()->fetchFirstColumn(
                "SELECT CONCAT(number, ' ', open, ' ', due_date) FROM open_item WHERE document_id = ? ORDER BY part",
                [$id],
            ),
        );
    }

    public function testForeignCurrencyLeavesAnExchangeDifferenceOnly(): void
    {
        // rules.md: 1,000.00 EUR invoiced at 1.10 and received at 1.08: bank 1,080.00, control 1,100.00, loss 20.00
        $this->db()->executeStatement(
            <<<SQL
            INSERT INTO exchange_rate (company_id, valid_on, from_currency, to_currency, rate)
            VALUES (?, '2026-06-01', 'EUR', 'USD', 1.10), (?, '2026-06-12', 'EUR', 'USD', 1.08)
            SQL
            ,
            [$this->clerk->companyId, $this->clerk->companyId],
        );
        $item = $this->itemOf($this->invoice(Side::Receivables, '1000.00', ['currency' => 'EUR', 'terms' => 'N30']));
        $this->money(
            Side::Receivables,
            100000,
            [new PlacementRequest($item, 100000)],
            [],
            self::DAY,
            DocumentKind::Receipt,
            'EUR',
        );
        self::assertSame([108000, 2000, 0], [$this->balance('1000'), $this->balance('7900'), $this->balance('1200')]);
    }

    public function testPrepaymentPlacedMovesBetweenControls(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '500.00'));
        $prepayment = $this->itemOf(
            $this->money(Side::Receivables, 50000, [], [], '2026-06-11', DocumentKind::Prepayment),
        );
        self::assertSame([-50000, 50000], [$this->balance('2150'), $this->balance('1200')]);
        self::get(\Nelbix\App\Platform\Transaction::class)->run(
            fn () => self::get(\Nelbix\App\Books\SettlementBook::class)->settle(
                $this->clerk,
                new \Nelbix\App\Books\SettlementRequest(
                    Side::Receivables,
                    [new PlacementRequest($item, 50000), new PlacementRequest($prepayment, -50000)],
                    [],
                    Day::of(self::DAY),
                ),
            ),
        );
        self::assertSame([0, 0], [$this->balance('2150'), $this->balance('1200')]);
    }

    public function testDiscountThatCorrectsTax(): void
    {
        // rules.md: 1,000.00 + 20 % tax, 2 %: payables 1,200.00, bank 1,176.00, discounts received 20.00, input tax 4.00
        $this->db()->executeStatement("UPDATE tax_code SET rate = 20, discount_corrects_tax = 1 WHERE code = 'P8'");
        self::get(\Doctrine\ORM\EntityManagerInterface::class)->clear();
        $item = $this->itemOf(
            $this->invoice(Side::Payables, '1000.00', [
                'lines' => [['account' => '5000', 'amount' => '1000.00', 'tax_code' => 'P8']],
            ]),
        );
        $this->money(
            Side::Payables,
            117600,
            [new PlacementRequest($item, 120000)],
            [new AdjustmentRequest($item, AdjustmentKind::Discount, -2400)],
            self::DAY,
            DocumentKind::Payment,
        );
        self::assertSame(
            [0, -117600, -2000, 20000 - 400],
            [$this->balance('2100'), $this->balance('1000'), $this->balance('5900'), $this->balance('1300')],
        );
    }

    public function testSameKeyTwiceMakesOneDocument(): void
    {
        $read = fn () => self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, [
            'party' => 'V-1',
            'number' => 'K',
            'document_date' => '.',
            'lines' => [['account' => '5000', 'amount' => '10']],
        ]);
        $post = self::get(PostInvoice::class);
        $form = new FormKey('key-1', 'as typed');
        self::assertSame($post->post($this->clerk, $read(), $form), $post->post($this->clerk, $read(), $form));
    }

    public function testSmallDifferenceStaysWithinTheTolerance(): void
    {
        $item = $this->itemOf($this->invoice(Side::Receivables, '400.00', ['terms' => 'N30']));
        $write = fn (int $amount) => $this->money(
            Side::Receivables,
            40000 - $amount,
            [new PlacementRequest($item, 40000)],
            [new AdjustmentRequest($item, AdjustmentKind::WriteOff, -$amount)],
        );
        self::assertSame(['write_off'], self::refusedFields(fn () => $write(101)));
        $write(100);
        self::assertSame([0, 100], [$this->open($item), $this->balance('6850')]);
    }

    public function testLookAlikes(): void
    {
        $this->invoice(Side::Payables, '912.40', ['number' => 'BR-2240']);
        $party = (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'V-1'");
        $look = fn (string $number, int $total, string $date): array => array_column(
            self::get(LookAlikes::class)->of(
                $this->clerk->companyId,
                Side::Payables,
                $party,
                $number,
                $total,
                Day::of($date),
            ),
            'why',
        );
        self::assertSame(['number alike'], $look('br 02240', 1, '2026-01-01'));
        self::assertSame(['same amount within 10 days'], $look('other', 91240, '2026-06-20'));
        self::assertSame([], $look('other', 91240, '2026-06-21'));
        self::assertSame('A7B10', LookAlikes::key('a-007/b.010'));
    }

    public function testControlAccountsTakeOnlyTheirLedgerUnlessBypassed(): void
    {
        $account = fn (string $n): int => (int) $this->db()->fetchOne(
            'SELECT id FROM account WHERE company_id = ? AND number = ?',
            [$this->clerk->companyId, $n],
        );
        $draft = JournalDraft::of('USD', [
            new DraftLine($account('1000'), 41250, 41250),
            new DraftLine($account('1200'), -41250, -41250),
        ]);
        self::assertSame(
            ['account'],
            self::refusedFields(
                fn () => self::get(PostJournalEntry::class)->post(
                    $this->clerk,
                    $draft,
                    Day::of('2026-06-09'),
                    'shop cash over',
                ),
            ),
        );
        self::get(PostJournalEntry::class)->post($this->clerk, $draft, Day::of('2026-06-09'), 'shop cash over', true);
        $tie = array_values(
            array_filter(
                self::get(\Nelbix\App\Close\TieOut\TieOutQuery::class)->of($this->clerk->companyId, Day::of(self::DAY)),
                static fn (array $r): bool => '1200' === $r['account'],
            ),
        )[0]['tie'];
        self::assertSame(
            [-41250, '2026-06-09', 'bypass entry'],
            [$tie->difference(), $tie->breakDay, $tie->explainedBy[0]->why],
        );
        self::assertSame(
            0,
            array_values(
                array_filter(
                    self::get(\Nelbix\App\Close\TieOut\TieOutQuery::class)->of(
                        $this->clerk->companyId,
                        Day::of('2026-06-08'),
                    ),
                    static fn (array $r): bool => '1200' === $r['account'],
                ),
            )[0]['tie']->difference(),
        );
    }

    public function testVerifyFindsWhatIsBroken(): void
    {
        $id = $this->invoice(Side::Payables, '10.00');
        $verify = self::get(\Nelbix\App\Close\Verify::class);
        $broken = function (string $sql) use ($verify): array {
            $this->db()->executeStatement($sql);

            return array_keys(array_filter($verify->of($this->clerk->companyId)));
        };
        self::assertContains(2, $broken("UPDATE open_item SET open = open - 1 WHERE document_id = $id"));
        self::assertContains(
            4,
            $broken(
                <<<SQL
                UPDATE open_item
                SET open = open + 1, original_base = original_base + 5, open_base = open_base + 5
                WHERE document_id = $id
                SQL
                ,
            ),
        );
        self::assertContains(1, $broken('UPDATE journal_line SET base = base + 1 WHERE position = 1'));
        self::assertContains(1, $broken('UPDATE journal_entry SET sequence = sequence + 1'));
        self::assertContains(5, $broken('UPDATE check_book SET next_number = next_number + 1'));
        $this->db()->executeStatement('UPDATE journal_entry SET sequence = sequence - 1');
        $this->db()->executeStatement('UPDATE journal_line SET base = base - 1 WHERE position = 1');
        $this->db()->executeStatement(
            "UPDATE open_item SET original_base = original_base - 5, open_base = open_base - 5 WHERE document_id = $id",
        );
        $this->db()->executeStatement('UPDATE check_book SET next_number = next_number - 1');
    }
}
