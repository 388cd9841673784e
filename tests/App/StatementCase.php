<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Banking\Statement\FindPlaces;
use Nelbix\App\Banking\Statement\LineOptions;
use Nelbix\App\Banking\Statement\Option;
use Nelbix\App\Banking\Statement\Overlap;
use Nelbix\App\Banking\Statement\TakeStatement;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Statement\BankStatement;
use Nelbix\Core\Formats\Statement\StatementLine;

/** A bank account and statements of it. */
abstract class StatementCase extends ScreenCase
{
    protected function bank(): BankRow
    {
        return self::get(BankAccounts::class)->named($this->clerk->companyId, '1000');
    }

    /** @param array<string, mixed> $more of a StatementLine */
    protected static function line(
        int $amount,
        string $text = '',
        array $more = [],
        string $day = self::DAY,
    ): StatementLine {
        return new StatementLine(
            ...['day' => Day::of($day), 'value' => null, 'amount' => $amount, 'text' => $text] + $more,
        );
    }

    /** @param list<StatementLine> $lines */
    protected static function statement(
        array $lines,
        int $opening = 0,
        string $from = self::DAY,
        string $to = self::DAY,
    ): BankStatement {
        $sum = array_sum(array_map(static fn (StatementLine $l): int => $l->amount, $lines));

        return new BankStatement('7', '', 'USD', Day::of($from), Day::of($to), $opening, $opening + $sum, $lines);
    }

    protected function take(BankStatement $statement, Overlap $overlap = Overlap::Ask, bool $gap = false): int
    {
        return self::get(TakeStatement::class)
            ->take(
                $this->clerk,
                $this->bank()->id,
                $statement,
                'hand',
                hash('sha256', serialize($statement)),
                $overlap,
                $gap,
            )
            ->id();
    }

    /** The id of the only line with this amount. */
    protected function lineOf(int $amount): int
    {
        $ids = $this->db()->fetchFirstColumn('SELECT id FROM statement_line WHERE amount = ? ORDER BY id', [$amount]);
        self::assertCount(1, $ids);

        return (int) $ids[0];
    }

    /** @return list<Option> what stands in the row of the line with this amount */
    protected function options(int $amount): array
    {
        return $this->found($amount)[0];
    }

    /** @return array{list<Option>, bool} and whether the first is marked */
    protected function found(int $amount): array
    {
        $line = $this->lineOf($amount);
        $found = self::get(FindPlaces::class)->of($this->bank(), $this->clerk->companyId);
        $waiting = [$line => (int) $this->db()->fetchOne('SELECT waiting FROM statement_line WHERE id = ?', [$line])];
        $options = self::get(LineOptions::class)->of(
            $this->bank(),
            $this->clerk->companyId,
            array_intersect_key($found, $waiting),
            $waiting,
        );

        return [$options[$line] ?? [], ($found[$line] ?? null)->sure ?? false];
    }

    protected function waiting(int $lineId): int
    {
        return (int) $this->db()->fetchOne('SELECT waiting FROM statement_line WHERE id = ?', [$lineId]);
    }
}
