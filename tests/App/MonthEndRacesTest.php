<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Brick\Math\BigDecimal;
use Nelbix\App\Ledger\SaveRate;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** Two controllers at once: one is done, the other is refused in words, and nothing stands twice. */
final class MonthEndRacesTest extends CommittedCase
{
    /** @param list<int> $arguments */
    private function oneOfTwo(string $what, array $arguments, string $count): void
    {
        [$done, $refused] = $this->together($what, $arguments, $arguments);
        self::assertSame('done', $done);
        self::assertStringStartsWith('refused: ', $refused);
        self::assertSame(1, (int) $this->db()->fetchOne($count, [$this->clerk->companyId]), $what);
    }

    public function testTheSameDayIsRevaluedOnce(): void
    {
        foreach (['2026-05-01' => '1.10', '2026-05-29' => '1.15'] as $day => $rate) {
            self::get(SaveRate::class)->save($this->clerk, Day::of($day), 'EUR', 'USD', BigDecimal::of($rate), 'typed');
        }
        $this->invoice(Side::Receivables, '1000.00', ['document_date' => '2026-05-10', 'currency' => 'EUR']);
        $this->oneOfTwo('revalue', [], 'SELECT COUNT(*) FROM revaluation WHERE company_id = ?');
        self::assertSame(
            2,
            (int) $this->db()->fetchOne(
                "SELECT COUNT(*) FROM journal_entry WHERE company_id = ? AND source_kind = 'revaluation'",
                [$this->clerk->companyId],
            ),
        );
    }

    /** The second finds the rate of the first: the same one is nothing to do, another one asks for a reason. */
    public function testTheFirstRateOfADay(): void
    {
        self::assertSame(['done', 'done'], $this->together('rate', [2], [2]));
        $this->db()->executeStatement('DELETE FROM exchange_rate WHERE company_id = ?', [$this->clerk->companyId]);
        [$done, $refused] = $this->together('rate', [2], [3]);
        self::assertSame('done', $done);
        self::assertStringStartsWith('refused: ', $refused);
        self::assertSame(
            1,
            (int) $this->db()->fetchOne('SELECT COUNT(*) FROM exchange_rate WHERE company_id = ?', [
                $this->clerk->companyId,
            ]),
        );
    }

    public function testTheSameYearIsAddedOnce(): void
    {
        $next =
            1 +
            (int) $this->db()->fetchOne('SELECT MAX(year) FROM period WHERE company_id = ?', [$this->clerk->companyId]);
        $this->oneOfTwo(
            'year',
            [$next],
            'SELECT COUNT(DISTINCT year) FROM period WHERE company_id = ? AND year >= '.$next,
        );
        self::assertSame(
            12,
            (int) $this->db()->fetchOne('SELECT COUNT(*) FROM period WHERE company_id = ? AND year = ?', [
                $this->clerk->companyId,
                $next,
            ]),
        );
    }

    public function testTheSameYearIsClosedOnce(): void
    {
        $this->invoice(Side::Payables, '100.00', [
            'document_date' => '2025-06-10',
            'posting_date' => '2025-06-10',
            'day_meant' => '1',
        ]);
        $this->oneOfTwo('close', [2025], 'SELECT COUNT(*) FROM year_end WHERE company_id = ? AND undone_at IS NULL');
    }

    public function testTheSameDayIsSignedOffOnce(): void
    {
        $this->db()->executeStatement(
            'UPDATE period SET payables_locked = 1, receivables_locked = 1, ledger_locked = 1 '.
                "WHERE company_id = ? AND last_day <= '2026-04-30'",
            [$this->clerk->companyId],
        );
        $this->oneOfTwo(
            'sign',
            [],
            "SELECT COUNT(*) FROM sign_off s JOIN account a ON a.id = s.account_id WHERE s.company_id = ? AND a.role = 'payables'",
        );
    }
}
