<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Close\Period\ClosingGates;
use Nelbix\App\Close\Period\NumberGaps;
use Nelbix\App\Invoices\KeepDraft;
use Nelbix\App\Ledger\AddYear;
use Nelbix\App\Ledger\LockPeriod;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Numbering;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** The gates of a period, its locks, and the periods of years that are none of the calendar. */
final class CloseTest extends ScreenCase
{
    /** @return array<string, array{int, ?int}> gates that stand in the way of May: count and amount by key */
    private function standing(string $last = '2026-05-31'): array
    {
        $gates = [];
        foreach (self::get(ClosingGates::class)->of($this->clerk->companyId, 'USD', 2026, Day::of($last)) as $gate) {
            if ($gate->count > 0) {
                $gates[$gate->key] = [$gate->count, $gate->amount];
            }
        }

        return $gates;
    }

    public function testEachGateShowsWhatStandsInTheWay(): void
    {
        $clear = ['signed' => [9, null]];
        self::assertSame($clear, $this->standing(), 'an empty company has only its sign-offs before it');
        $this->invoice(Side::Payables, '70.00', ['document_date' => '2026-05-10', 'posting_date' => '2026-05-10']);
        $this->db()->executeStatement("UPDATE document SET held_reason = 'a word missing' WHERE company_id = ?", [
            $this->clerk->companyId,
        ]);
        $this->money(Side::Receivables, 2500, date: '2026-05-20');
        self::get(KeepDraft::class)->keep($this->clerk, Side::Receivables, [
            'party' => 'C-1',
            'document_date' => '5/28',
            'posting_date' => '5/28',
        ]);
        $this->db()->executeStatement("UPDATE document SET created_at = '2026-05-28 10:00:00' WHERE state = 'draft'");
        $this->invoice(Side::Receivables, '10.00', [
            'document_date' => '2026-05-11',
            'currency' => 'EUR',
            'rate' => '1.2',
        ]);
        $this->db()->executeStatement(
            "INSERT INTO batch (company_id, side, name, posting_date, created_by_id, created_at)
            VALUES (?, 'payables', 'May', '2026-05-30', ?, NOW())",
            [$this->clerk->companyId, $this->clerk->userId],
        );
        $this->db()->executeStatement(
            "INSERT INTO journal_line (entry_id, position, account_id, posting_date, base, amount, text)
            SELECT e.id, 90 + n.n, a.id, e.posting_date, IF(n.n, 100, -100), IF(n.n, 100, -100), ''
            FROM (SELECT MIN(id) AS id FROM journal_entry WHERE company_id = :company) m
            JOIN journal_entry e ON e.id = m.id
            JOIN (SELECT 0 AS n UNION ALL SELECT 1) n
            JOIN account a ON a.company_id = :company AND a.number = IF(n.n, '2100', '6400')",
            ['company' => $this->clerk->companyId],
        );
        self::assertEquals(
            [
                'batches_payables' => [1, null],
                'drafts_receivables' => [1, 0],
                'held_payables' => [1, 7000],
                'unapplied_receivables' => [1, 2500],
                'revaluation' => [1, 1200],
                'tie_out' => [1, 100],
                'signed' => [9, null],
            ],
            $this->standing(),
        );
        self::assertArrayNotHasKey(
            'held',
            $this->standing('2026-04-30'),
            'what came later does not stand in the way of April',
        );
        $this->db()->executeStatement('DELETE FROM journal_line WHERE position >= 90');
        $this->as('controller');
        $page = $this->page('/TEST/close');
        self::assertSame('Close 2025/01', $page->filter('h1')->text(), 'the first that has ended and is open');
        $may = (int) $this->db()->fetchOne("SELECT id FROM period WHERE company_id = ? AND first_day = '2026-05-01'", [
            $this->clerk->companyId,
        ]);
        $page = $this->page('/TEST/close?period='.$may);
        self::assertStringContainsString('1 vendor document is held', $page->filter('.gates')->text());
        foreach ($page->filter('.gates a')->links() as $link) {
            $this->browser->click($link);
            self::assertSame(200, $this->browser->getResponse()->getStatusCode(), $link->getUri());
        }
        $this->as('payables');
        $links = $this->page('/TEST/close?period='.$may)
            ->filter('.gates a')
            ->links();
        foreach ($links as $link) {
            $this->browser->click($link);
            self::assertSame(
                200,
                $this->browser->getResponse()->getStatusCode(),
                'a way in that one may go: '.$link->getUri(),
            );
        }
        $this->browser->request('GET', '/TEST/close?period=999999');
        self::assertSame(404, $this->browser->getResponse()->getStatusCode());
    }

    public function testAGapInTheNumbersIsNamed(): void
    {
        foreach (['1.00', '2.00', '3.00'] as $amount) {
            $this->invoice(Side::Payables, $amount);
        }
        $gaps = self::get(NumberGaps::class);
        self::assertSame([0, 0], array_column($gaps->of($this->clerk->companyId, 2026), 'missing'));
        $this->db()->executeStatement("UPDATE document SET number = 'X-1' WHERE number = 'VI-26-00002'");
        $this->db()->executeStatement("UPDATE open_item SET number = 'X-1' WHERE number = 'VI-26-00002'");
        self::assertSame(['VI-26-00002'], $gaps->missing($this->clerk->companyId, 'VI-2026', 3));
        self::assertSame([1, null], $this->standing(self::DAY)['gaps']);
        self::assertStringContainsString('VI-26-00002', $this->page('/TEST/close/numbers?year=2026')->text());
        $this->db()->executeStatement("UPDATE document SET number = 'VI-26-00002' WHERE number = 'X-1'");
        $this->db()->executeStatement("UPDATE open_item SET number = 'VI-26-00002' WHERE number = 'X-1'");
    }

    public function testOnlyAControllerLocksWithAReasonWhateverTheDoor(): void
    {
        $period = (int) $this->db()->fetchOne(
            "SELECT id FROM period WHERE company_id = ? AND first_day = '2026-05-01'",
            [$this->clerk->companyId],
        );
        $lock = self::get(LockPeriod::class);
        $id = (int) $this->db()->fetchOne("SELECT id FROM app_user WHERE username = 'payables'");
        $clerk = new Actor($this->clerk->companyId, 'USD', $id);
        self::assertSame([''], self::refusedFields(fn () => $lock->set($clerk, $period, 'payables', true, 'done')));
        self::assertSame(
            ['why'],
            self::refusedFields(fn () => $lock->set($this->clerk, $period, 'payables', true, ' ')),
        );
        foreach (['payables', 'receivables', 'ledger'] as $which) {
            self::assertStringContainsString('Locked 2026/05', $lock->set($this->clerk, $period, $which, true, 'done'));
            self::assertSame(
                ['period'],
                self::refusedFields(fn () => $lock->set($this->clerk, $period, $which, true, 'x')),
            );
            self::assertStringContainsString(
                'Opened 2026/05',
                $lock->set($this->clerk, $period, $which, false, 'one more'),
            );
        }
        self::assertSame(
            ['done', 'one more'],
            \array_slice(
                $this->db()->fetchFirstColumn("SELECT detail FROM history WHERE subject = 'period' ORDER BY id"),
                0,
                2,
            ),
        );
    }

    public function testAYearOfWeeksNumbersByItsOwnDays(): void
    {
        $add = self::get(AddYear::class);
        self::assertSame(['pattern'], self::refusedFields(fn () => $add->add($this->clerk, 2028, 'moons')));
        $add->add($this->clerk, 2028, '445');
        $add->add($this->clerk, 2029, '445');
        $days = $this->db()->fetchAllNumeric(
            'SELECT first_day, last_day FROM period WHERE company_id = ? AND year = 2028 ORDER BY number',
            [$this->clerk->companyId],
        );
        self::assertSame(
            [['2028-01-01', '2028-01-28'], ['2028-01-29', '2028-02-25'], ['2028-02-26', '2028-03-31']],
            \array_slice($days, 0, 3),
        );
        self::assertSame('2028-12-29', $days[11][1], '52 weeks from Saturday to Friday');
        $numbering = self::get(Numbering::class);
        self::assertSame(2028, $numbering->yearOf($this->clerk->companyId, Day::of('2028-12-29')));
        self::assertSame(2029, $numbering->yearOf($this->clerk->companyId, Day::of('2028-12-30')));
        $this->invoice(Side::Receivables, '5.00', ['document_date' => '2028-12-30']);
        self::assertSame(
            ['CI-29-00001', 'JE-29-00001'],
            [
                $this->db()->fetchOne('SELECT number FROM document WHERE company_id = ?', [$this->clerk->companyId]),
                $this->db()->fetchOne('SELECT number FROM journal_entry WHERE company_id = ?', [
                    $this->clerk->companyId,
                ]),
            ],
        );
    }
}
