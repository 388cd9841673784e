<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Banking\PrintChecks;
use Nelbix\App\Books\ChangePosted;
use Nelbix\App\Payables\CriteriaReader;
use Nelbix\App\Payables\DecideProposal;
use Nelbix\App\Payables\MakeProposal;
use Nelbix\App\Payables\TakeOut;
use Nelbix\Core\Ledger\Side;
use PHPUnit\Framework\Attributes\DataProvider;

/** Whatever stops a run between approval and posting can be taken out of it; nothing is ever stuck. */
final class TakeOutTest extends ScreenCase
{
    private function state(int $run): string
    {
        return (string) $this->db()->fetchOne('SELECT state FROM proposal WHERE id = ?', [$run]);
    }

    /** @return array{int, int, int} a run of two payments in a state, and the two invoices */
    private function run2(string $state): array
    {
        $this->db()->executeStatement("UPDATE party SET separate_payments = 1 WHERE code = 'V-1'");
        $ids = [];
        foreach (['10.00', '20.00'] as $amount) {
            $ids[] = $this->invoice(Side::Payables, $amount, ['document_date' => '2026-04-01', 'terms' => 'N30']);
        }
        if ('approved' !== $state) {
            return [$this->printedRun(), ...$ids];
        }
        ['criteria' => $criteria, 'bankAccountId' => $bank, 'method' => $method] = self::get(
            CriteriaReader::class,
        )->read($this->clerk, ['pay_date' => self::DAY]);
        $run = self::get(MakeProposal::class)->make($this->clerk, $criteria, $bank, $method);
        self::get(DecideProposal::class)->decide($this->approver, $run, true);

        return [$run, ...$ids];
    }

    /** @return iterable<string, array{string}> */
    public static function states(): iterable
    {
        yield 'approved' => ['approved'];
        yield 'printed' => ['printed'];
        yield 'posting, stopped' => ['posting'];
    }

    #[DataProvider('states')]
    public function testWhatIsHeldAfterApprovalIsTakenOutAndTheRestIsPaid(string $state): void
    {
        [$run, $first, $second] = $this->run2($state);
        self::get(ChangePosted::class)->hold($this->clerk, $first, 'goods came back');
        if ('posting' === $state) {
            $this->db()->executeStatement("UPDATE proposal SET state = 'posting' WHERE id = ?", [$run]);
            self::get(\Doctrine\ORM\EntityManagerInterface::class)->clear();
        }
        if ('approved' !== $state) {
            self::assertStringContainsString('is held', self::said(fn () => $this->postRun($run)));
        }
        self::assertStringContainsString(
            'Say why',
            self::said(fn () => self::get(TakeOut::class)->take($this->clerk, $run, 1, ' ')),
        );
        $path = '/TEST/payables/proposal/'.$run;
        self::assertStringContainsString(
            'out of the run',
            $this->post($path, $path.'/take-out', ['payment' => '1', 'reason' => 'goods came back'])
                ->filter('.said-done')
                ->text(),
        );
        self::assertNull($this->db()->fetchOne('SELECT reserved_by_id FROM open_item WHERE document_id = ?', [$first]));
        if ('approved' === $state) {
            $book = $this->db()->fetchAssociative('SELECT id, next_number FROM check_book LIMIT 1') ?: self::fail();
            self::get(PrintChecks::class)->print($this->clerk, $run, (int) $book['id'], (int) $book['next_number']);
            self::get(PrintChecks::class)->sayWhatPrinted($this->clerk, $run, [], '');
        } else {
            self::assertSame(
                ['voided', 'goods came back'],
                array_values(
                    $this->db()->fetchAssociative('SELECT state, reason FROM bank_check ORDER BY number LIMIT 1') ?: [],
                ),
            );
        }
        $this->postRun($run);
        self::assertSame(
            ['posted', 1000, 0],
            [$this->state($run), $this->open($this->itemOf($first)), $this->open($this->itemOf($second))],
        );
        self::assertStringContainsString(
            'is posted',
            self::said(function () use ($run): void {
                $this->db()->executeStatement("UPDATE proposal SET state = 'posting' WHERE id = ?", [$run]);
                self::get(\Doctrine\ORM\EntityManagerInterface::class)->clear();
                self::get(TakeOut::class)->take($this->clerk, $run, 2, 'too late');
            }),
        );
    }

    public function testTheLastPaymentTakenOutEndsTheRun(): void
    {
        [$run] = $this->run2('printed');
        foreach ([1, 2] as $payment) {
            self::get(TakeOut::class)->take($this->clerk, $run, $payment, 'not now');
        }
        self::assertSame('dropped', $this->state($run));
        self::assertSame(
            0,
            (int) $this->db()->fetchOne('SELECT COUNT(*) FROM open_item WHERE reserved_by_id IS NOT NULL'),
        );
        self::assertStringContainsString(
            'this step does not fit',
            self::said(fn () => self::get(TakeOut::class)->take($this->clerk, $run, 1, 'again')),
        );
    }

    /** An invoice that is posted after the pay date could never be paid by the run, so it does not come in. */
    public function testWhatIsPostedAfterThePayDateStaysOut(): void
    {
        $this->invoice(Side::Payables, '10.00', [
            'document_date' => '2026-04-01',
            'posting_date' => '2026-06-20',
            'terms' => 'N30',
        ]);
        $this->invoice(Side::Payables, '20.00', ['document_date' => '2026-04-01', 'terms' => 'N30']);
        $this->postRun($this->printedRun());
        self::assertSame(
            ['posted_later'],
            $this->db()->fetchFirstColumn('SELECT reason FROM proposal_line WHERE is_in = 0'),
        );
    }
}
