<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Csv;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;

/**
 * Reads a bank's CSV by a mapping of its columns. Such a file says no opening balance: it is that of the first line before its amount
 * where the file has a running balance, else the one that is given. Source: RFC 4180; common practice.
 */
final readonly class CsvStatementReader implements StatementReader
{
    /**
     * @param int|null $opening minor units, where the file has no balances
     * @param int|null $closing minor units; null when it is what the lines lead to
     */
    public function __construct(
        private CsvMapping $mapping,
        private string $currency,
        private ?int $opening = null,
        private ?int $closing = null,
        private string $account = '',
    ) {
    }

    public function knows(string $bytes): bool
    {
        try {
            return \count(Csv::table($bytes)) > 1;
        } catch (Refused) {
            return false;
        }
    }

    public function read(string $bytes): array
    {
        $rows = Csv::table($bytes);
        $at = $this->places($rows[0]['cells'] ?? []);
        $problems = $lines = $balances = [];
        foreach (\array_slice($rows, 1) as $row) {
            $cell = static fn (string $field): string => isset($at[$field]) ? $row['cells'][$at[$field]] ?? '' : '';
            try {
                $lines[] = $this->line($cell);
                $balances[] = '' === $cell('balance') ? null : $this->amount($cell('balance'), 'balance');
            } catch (Refused $e) {
                foreach ($e->problems as $p) {
                    $problems[] = new Problem($p->field, $p->message, $row['line']);
                }
            }
            if (\count($problems) >= Csv::MAX_PROBLEMS) {
                break;
            }
        }
        if ([] !== $problems) {
            throw Refused::all($problems);
        }
        if ([] === $lines) {
            throw Refused::because('file', 'The file has headings and no line below them.');
        }

        return [$this->statement($lines, $balances)];
    }

    /**
     * @param list<string> $headings
     *
     * @return array<string, int> place of each field
     *
     * @throws Refused for each column that the mapping names and the file has not
     */
    private function places(array $headings): array
    {
        $at = $problems = [];
        foreach ($this->mapping->columns as $field => $heading) {
            $place = array_search($heading, $headings, true);
            if (false === $place) {
                $problems[] = new Problem(
                    'columns.'.$field,
                    \sprintf(
                        'The file has no column “%s”; choose the one that holds the %s.',
                        $heading,
                        str_replace('_', ' ', $field),
                    ),
                    1,
                );
            } else {
                $at[$field] = $place;
            }
        }

        return [] === $problems ? $at : throw Refused::all($problems);
    }

    /** @param \Closure(string): string $cell */
    private function line(\Closure $cell): StatementLine
    {
        $text = trim($cell('text').' '.$cell('text2'));

        return new StatementLine(
            $this->day($cell('day'), 'day'),
            '' === $cell('value') ? null : $this->day($cell('value'), 'value'),
            $this->signed($cell),
            mb_substr($text, 0, 500),
            mb_substr($cell('reference'), 0, 120),
            mb_substr($cell('bank_reference'), 0, 120),
            mb_substr($cell('party'), 0, 140),
            mb_substr($cell('account'), 0, 60),
            1 === preg_match('/\A\d{1,15}\z/', $cell('check')) ? ltrim($cell('check'), '0') : '',
        );
    }

    /** @param \Closure(string): string $cell */
    private function signed(\Closure $cell): int
    {
        if ('' !== $cell('amount')) {
            return ($this->mapping->turned ? -1 : 1) * $this->amount($cell('amount'), 'amount');
        }
        $in = '' === $cell('in') ? 0 : abs($this->amount($cell('in'), 'in'));
        $out = '' === $cell('out') ? 0 : abs($this->amount($cell('out'), 'out'));
        if (0 === $in && 0 === $out) {
            throw Refused::because('amount', 'The line has no amount.');
        }

        return $in - $out;
    }

    /**
     * The bank may write the newest line first; what the balances say decides, then the days.
     *
     * @param non-empty-list<StatementLine> $lines
     * @param list<int|null> $balances after each line
     */
    private function statement(array $lines, array $balances): BankStatement
    {
        $last = \count($lines) - 1;
        if ($lines[0]->day->isAfter($lines[$last]->day) || $this->downwards($lines, $balances)) {
            $lines = array_reverse($lines);
            $balances = array_reverse($balances);
        }
        $sum = array_sum(array_map(static fn (StatementLine $l): int => $l->amount, $lines));
        $opening = null === $balances[0] ? $this->opening : $balances[0] - $lines[0]->amount;
        if (null === $opening && null !== $this->closing) {
            $opening = $this->closing - $sum;
        }
        if (null === $opening) {
            throw Refused::because('opening', 'The file has no balances; type the balance that it opens with.');
        }
        $days = array_map(static fn (StatementLine $l): string => $l->day->iso(), $lines);

        return (new BankStatement(
            max($days),
            $this->account,
            $this->currency,
            Day::of(min($days)),
            Day::of(max($days)),
            $opening,
            $balances[$last] ?? ($this->closing ?? $opening + $sum),
            $lines,
        ))->check();
    }

    /**
     * @param non-empty-list<StatementLine> $lines
     * @param list<int|null> $balances
     */
    private function downwards(array $lines, array $balances): bool
    {
        $last = \count($lines) - 1;

        return $last > 0
            && null !== $balances[0]
            && null !== $balances[$last]
            && $lines[0]->day->equals($lines[$last]->day)
            && $balances[0] - $lines[0]->amount !==
                $balances[$last] - array_sum(array_map(static fn (StatementLine $l): int => $l->amount, $lines))
            && $balances[0] - $lines[0]->amount === $balances[1];
    }

    private function day(string $typed, string $field): Day
    {
        if (!CsvMapping::isDay($typed, $this->mapping->days)) {
            throw Refused::because(
                $field,
                \sprintf(
                    '“%s” is no day such as %s.',
                    mb_strimwidth($typed, 0, 30, '…'),
                    CsvMapping::DAYS[$this->mapping->days],
                ),
            );
        }
        $day = \DateTimeImmutable::createFromFormat('!'.$this->mapping->days, $typed, new \DateTimeZone('UTC'));
        \assert(false !== $day);

        return Day::of($day->format('Y-m-d'), $field);
    }

    /** Thousands may be apart by a point, a comma, a blank or an apostrophe; brackets, or a minus behind it, are a minus. */
    private function amount(string $typed, string $field): int
    {
        $plain = str_replace(["\u{2212}", "\u{a0}", ' ', '’', "'"], ['-', '', '', '', ''], $typed);
        $negative = 1 === preg_match('/\A\((.*)\)\z/', $plain, $m) || 1 === preg_match('/\A(.*)-\z/', $plain, $m);
        $plain = $negative ? (string) ($m[1] ?? '') : ltrim($plain, '+');
        $plain =
            '.' === $this->mapping->decimal ? str_replace(',', '', $plain) : str_replace(['.', ','], ['', '.'], $plain);
        try {
            $minor = Money::parse($plain, Currency::of($this->currency), $field)->minor;
        } catch (Refused) {
            throw Refused::because(
                $field,
                \sprintf('“%s” is no amount in %s.', mb_strimwidth($typed, 0, 30, '…'), $this->currency),
            );
        }

        return $negative ? -$minor : $minor;
    }
}
