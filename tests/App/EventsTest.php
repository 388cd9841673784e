<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Banking\VoidCheck;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Money\RequestRefund;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Bounces, voids and undos on their own days: what depends on the money goes with it, and no past day is overdrawn. */
final class EventsTest extends AppCase
{
    private function event(int $document, string $day, HowTakenBack $how = HowTakenBack::Bounced): int
    {
        return self::get(ReverseDocument::class)->event($this->clerk, $document, Day::of($day), $how, 'no funds');
    }

    /** What an item has open on a day, worked out from its settlements. */
    private function openOn(int $item, string $day): int
    {
        return (int) $this->db()->fetchOne('SELECT original FROM open_item WHERE id = ?', [$item]) -
            (int) $this->db()->fetchOne(
                <<<'SQL'
                SELECT COALESCE(SUM(l.applied), 0)
                FROM settlement_line l
                JOIN settlement s ON s.id = l.settlement_id
                WHERE l.item_id = ? AND s.settled_on <= ? AND (s.undone_on IS NULL OR s.undone_on > ?)
                SQL
                ,
                [$item, $day, $day],
            );
    }

    public function testABouncedReceiptTakesItsRefundRequestWithIt(): void
    {
        $receipt = $this->money(Side::Receivables, 50000);
        $request = self::get(RequestRefund::class)->request(
            $this->clerk,
            $this->itemOf($receipt),
            20000,
            Day::of(self::DAY),
            'paid twice',
        );
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => self::DAY]);
        $run = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        $this->event($receipt, self::DAY);
        self::assertSame('reversed', $this->db()->fetchOne('SELECT state FROM document WHERE id = ?', [$request]));
        self::assertSame(
            0,
            (int) $this->db()->fetchOne(
                "SELECT COUNT(*) FROM open_item WHERE open <> 0 AND kind IN ('receipt', 'refund_request')",
            ),
            'nothing of it is left to be paid',
        );
        self::assertSame([0, 0], [$this->balance('1200'), $this->balance('1000')]);
        self::assertStringContainsString(
            'Of RQ-26-00001 0.00 is open now',
            self::get(\Nelbix\App\Payables\Underneath::class)->of($run)[0]['what'],
            'the run that held it says so',
        );
    }

    public function testARefundThatWasPaidStandsAndTheBounceLeavesItsItemOpen(): void
    {
        $receipt = $this->money(Side::Receivables, 50000);
        $request = self::get(RequestRefund::class)->request(
            $this->clerk,
            $this->itemOf($receipt),
            50000,
            Day::of(self::DAY),
            'paid twice',
        );
        $this->postRun($this->printedRun());
        $opposite = $this->event($receipt, self::DAY);
        self::assertSame('posted', $this->db()->fetchOne('SELECT state FROM document WHERE id = ?', [$request]));
        self::assertSame(50000, $this->open($this->itemOf($opposite)), 'the customer owes what was paid out');
    }

    public function testNothingIsDatedBeforeTheItemWasOpenedAgain(): void
    {
        $invoice = $this->invoice(Side::Receivables, '100.00', ['document_date' => '2026-04-01']);
        $item = $this->itemOf($invoice);
        $receipt = $this->money(Side::Receivables, 10000, [new PlacementRequest($item, 10000)], [], '2026-04-10');
        $this->event($receipt, '2026-05-20');
        self::assertStringContainsString(
            'was opened again on 20 May 2026',
            self::said(
                fn () => $this->money(Side::Receivables, 10000, [new PlacementRequest($item, 10000)], [], '2026-05-02'),
            ),
        );
        $reversal = self::get(ReverseDocument::class)->reverse($this->clerk, $invoice, 'never sold');
        self::assertSame(
            '2026-05-20',
            $this->db()->fetchOne('SELECT posting_date FROM document WHERE id = ?', [$reversal]),
            'not on its own day, on which the receipt had settled it',
        );
        foreach (['2026-04-01', '2026-04-10', '2026-05-02', '2026-05-19', '2026-05-20', '2026-06-01'] as $day) {
            $open = $this->openOn($item, $day);
            self::assertTrue($open >= 0 && $open <= 10000, $day.': '.$open);
        }
    }

    /** The opposite item of a bounced receipt is a credit taken back, not an invoice. */
    public function testTheAgingClassesByKind(): void
    {
        $receipt = $this->money(Side::Receivables, 50000, [], [], '2026-05-01');
        self::get(RequestRefund::class)->request(
            $this->clerk,
            $this->itemOf($receipt),
            50000,
            Day::of('2026-05-02'),
            '',
        );
        $this->postRun($this->printedRun());
        $this->event($receipt, self::DAY);
        $row = $this->aged(Side::Receivables, Day::of(self::DAY))[0]->row;
        self::assertSame([0, [0, 0, 0, 0], 50000], [$row->notDue, $row->buckets, $row->credits]);
        foreach (Side::cases() as $side) {
            self::assertSame($this->agedInAll($side, Day::of(self::DAY)), $this->controlled($side, Day::of(self::DAY)));
        }
    }

    public function testTheAgingOfPayablesTiesWhileARefundWaits(): void
    {
        $receipt = $this->money(Side::Receivables, 42000);
        self::get(RequestRefund::class)->request($this->clerk, $this->itemOf($receipt), 42000, Day::of(self::DAY), '');
        self::assertSame(42000, $this->controlled(Side::Payables, Day::of(self::DAY)));
    }

    public function testTheRegisterFollowsWhicheverButtonIsUsedAndAClearedCheckRefuses(): void
    {
        foreach (['reverse', 'event', 'check'] as $door) {
            $this->invoice(Side::Payables, '10.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
            $this->postRun($this->printedRun());
            $check = $this->db()->fetchAssociative('SELECT * FROM bank_check ORDER BY id DESC LIMIT 1') ?: self::fail();
            $payment = (int) $check['document_id'];
            $this->db()->executeStatement("UPDATE bank_check SET state = 'cleared' WHERE id = ?", [$check['id']]);
            $do = fn (): mixed => match ($door) {
                'reverse' => self::get(ReverseDocument::class)->reverse($this->clerk, $payment, 'x'),
                'event' => $this->event($payment, self::DAY, HowTakenBack::Voided),
                default => self::get(VoidCheck::class)->void(
                    $this->clerk,
                    (int) $check['check_book_id'],
                    (int) $check['number'],
                    Day::of(self::DAY),
                    'x',
                    false,
                ),
            };
            // a mistake is reversed once nothing is settled with it; an event undoes that itself
            if ('reverse' === $door) {
                self::get(\Nelbix\App\Books\UndoSettlement::class)->undo(
                    $this->clerk,
                    (int) $this->db()->fetchOne('SELECT id FROM settlement WHERE document_id = ?', [$payment]),
                );
            }
            self::assertStringContainsString('is cleared', self::said($do), $door);
            self::assertSame('posted', $this->db()->fetchOne('SELECT state FROM document WHERE id = ?', [$payment]));
            $this->db()->executeStatement("UPDATE bank_check SET state = 'issued' WHERE id = ?", [$check['id']]);
            self::get(\Doctrine\ORM\EntityManagerInterface::class)->clear();
            self::assertSame('done', self::said($do), $door);
            self::assertSame(
                'voided',
                $this->db()->fetchOne('SELECT state FROM bank_check WHERE id = ?', [$check['id']]),
                $door,
            );
            $this->db()->executeStatement("UPDATE document SET held_reason = 'done with' WHERE kind = 'invoice'");
        }
    }
}
