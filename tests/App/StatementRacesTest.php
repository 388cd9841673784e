<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Banking\Statement\TakeStatement;
use Nelbix\App\Pairing\PairingSet;
use Nelbix\App\Pairing\RunPairing;
use Nelbix\App\Pairing\SaveRule;
use Nelbix\App\Pairing\Source;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\StatementLine;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\Process\Process;

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

    /** A run of pairing is killed, wherever that is: gone on with, every row is in one pair and none was paired twice. */
    public function testAKilledPairingRunGoesOnAndPairsNothingTwice(): void
    {
        $this->take(...range(1, 300));
        $source = (new Source('bank', $this->clerk->companyId, id: $this->bank()))->raw();
        $set = new PairingSet($this->clerk->companyId, 'twice', $source, $source, 'USD', $this->clerk->userId);
        $entities = self::get(EntityManagerInterface::class);
        $entities->persist($set);
        $entities->flush();
        foreach (['1.00', '2.00', ''] as $below) {
            $filter =
                '' === $below
                    ? []
                    : [['side' => 'left', 'field' => 'amount', 'operation' => 'below', 'value' => $below]];
            $rule = ['left' => 'one', 'right' => 'one', 'certain' => '1', 'filters' => $filter];
            $record = self::get(SaveRule::class)->save($this->clerk, $set->id(), $rule, null);
            self::get(SaveRule::class)->change($this->clerk, $set->id(), $record, 'on');
        }
        self::get(RunPairing::class)->start($this->clerk, $set->id());
        $job = (int) $this->db()->fetchOne("SELECT id FROM job WHERE kind = 'pairing'");
        $struck = 0;
        foreach ([0, 15, 40] as $milliseconds) {
            $struck += (int) $this->struck(
                $job,
                $milliseconds,
                static fn (Process $worker) => $worker->stop(0, \SIGKILL),
            );
        }
        self::assertGreaterThan(0, $struck, 'at least one blow struck');
        self::assertSame('done', self::get(Worker::class)->finish($job)->state->value);
        $said =
            $this->db()->fetchNumeric(
                "SELECT (SELECT COUNT(*) FROM pairing_pair WHERE state = 'certain'), COUNT(*), COUNT(pair_id), COUNT(DISTINCT pair_id)
            FROM pairing_row",
            ) ?:
            [];
        self::assertSame([300, 600, 600, 300], array_map('intval', $said));
    }
}
