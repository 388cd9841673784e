<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Banking\Statement\TakeStatement;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\StatementLine;
use Nelbix\Core\Ledger\Side;

/** Two people at once at the same line, or the same record: money is never booked twice, and no statement goes from under a hand. */
final class StatementRacesTest extends CommittedCase
{
    /** @return list<int> the lines */
    private function take(int ...$amounts): array
    {
        $day = Day::of(self::DAY);
        $lines = array_map(
            static fn (int $a): StatementLine => new StatementLine($day, null, $a, 'x'),
            array_values($amounts),
        );
        $statement = new BankStatement('7', '', 'USD', $day, $day, 0, array_sum($amounts), $lines);
        self::get(TakeStatement::class)->take($this->clerk, $this->bank(), $statement, 'hand', 'one');

        return array_map('intval', $this->db()->fetchFirstColumn('SELECT id FROM statement_line ORDER BY id'));
    }

    public function testTheSameLineByTwoClerks(): void
    {
        [$line] = $this->take(-5_000);
        [$done, $refused] = $this->together('line', [$line, -5_000], [$line, -5_000]);
        self::assertSame('done', $done);
        self::assertStringContainsString('has its place already', $refused);
        self::assertSame([5_000, -5_000], [$this->balance('6400'), $this->balance('1000')]);
    }

    public function testTwoLinesWantTheSameRecord(): void
    {
        $this->money(Side::Receivables, 50_000, date: '2026-06-12');
        $entry = (int) $this->db()->fetchOne('SELECT MAX(id) FROM journal_entry');
        [$one, $two] = $this->take(50_000, 50_000);
        [$done, $refused] = $this->together('line', [$one, 50_000, $entry], [$two, 50_000, $entry]);
        self::assertSame('done', $done);
        self::assertStringContainsString('stands on a statement already', $refused);
        self::assertSame(50_000, (int) $this->db()->fetchOne('SELECT SUM(amount) FROM statement_part'));
    }

    public function testAStatementIsReplacedWhileSomebodyPlacesOnIt(): void
    {
        [$line] = $this->take(-5_000);
        $said = $this->together(['line', 'replace'], [$line, -5_000], [$this->bank(), -5_000]);
        self::assertCount(1, array_keys($said, 'done', true), implode(' | ', $said));
        $lines = array_map('intval', $this->db()->fetchFirstColumn('SELECT amount FROM statement_line ORDER BY id'));
        // either it was placed and stays, or it was replaced and nothing was booked
        self::assertContains([$lines, $this->balance('6400')], [[[-5_000], 5_000], [[-5_000, 1], 0]]);
    }
}
