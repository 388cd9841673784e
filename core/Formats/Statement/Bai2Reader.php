<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * Reads BAI version 2, the cash management balance reporting format: records 01 to 99, continued by 88, with their control totals. Source:
 * BAI, Cash Management Balance Reporting Specifications, Version 2.
 *
 * @phpstan-type BaiRecord array{line: int, code: string, fields: list<string>}
 */
final class Bai2Reader implements StatementReader
{
    private const MOST_BYTES = 20_000_000;

    /** Balances: opening and closing ledger. */
    private const OPENING = '010';
    private const CLOSING = '015';

    public function knows(string $bytes): bool
    {
        return 1 === preg_match('/\A(?:\xEF\xBB\xBF)?01,[^\n]*,2\s*\//', substr($bytes, 0, 1_000));
    }

    public function read(string $bytes): array
    {
        if (\strlen($bytes) > self::MOST_BYTES) {
            throw Refused::because(
                'file',
                'The file is too big; at most 20 MB of statements are read.',
                ProblemKind::TooMuch,
            );
        }
        $statements = [];
        $day = null;
        $groupCurrency = 'USD';
        $account = null;
        foreach ($this->records($bytes) as $record) {
            switch ($record['code']) {
                case '02':
                    $day = self::day($record['fields'][3] ?? '', $record['line']);
                    $groupCurrency = $record['fields'][5] ?? '' ?: 'USD';
                    break;
                case '03':
                    $account = ['head' => $record, 'lines' => []];
                    break;
                case '16':
                    $account ?? throw self::wrong($record['line'], 'is a line of no account');
                    $account['lines'][] = $record;
                    break;
                case '49':
                    if (null === $account || null === $day) {
                        throw self::wrong($record['line'], 'ends an account that did not begin');
                    }
                    $statements[] = $this->statement(
                        $account['head'],
                        $account['lines'],
                        $record,
                        $day,
                        $groupCurrency,
                    );
                    $account = null;
                    break;
                default:
                    break;
            }
        }
        if (null !== $account) {
            throw self::wrong($account['head']['line'], 'begins an account that does not end; the file is cut off');
        }

        return [] === $statements ? throw Refused::because('file', 'The file holds no statement.') : $statements;
    }

    /**
     * The records with their continuations, up to the file's end.
     *
     * @return list<BaiRecord>
     */
    private function records(string $bytes): array
    {
        $records = [];
        $bytes = str_starts_with($bytes, "\u{FEFF}") ? substr($bytes, 3) : $bytes;
        $text = mb_check_encoding($bytes, 'UTF-8') ? $bytes : mb_convert_encoding($bytes, 'UTF-8', 'ISO-8859-1');
        foreach (preg_split('/\r\n|\n|\r/', (string) $text) ?: [] as $n => $line) {
            $line = rtrim($line);
            if ('' === $line) {
                continue;
            }
            if (1 !== preg_match('/\A(\d{2}),(.*)\z/s', $line, $m)) {
                throw self::wrong($n + 1, 'is no record; it begins with two digits and a comma');
            }
            $ends = str_ends_with($m[2], '/');
            $fields = explode(',', $ends ? substr($m[2], 0, -1) : $m[2]);
            if ('88' !== $m[1]) {
                $records[] = ['line' => $n + 1, 'code' => $m[1], 'fields' => $fields];
                continue;
            }
            $last = array_pop($records) ?? throw self::wrong($n + 1, 'goes on with no record');
            // a text goes on where it stopped, other fields stand behind those before
            $records[] = [...$last, 'fields' => [...$last['fields'], ...$fields]];
        }
        if ([] === $records || '01' !== $records[0]['code']) {
            throw Refused::because('file', 'The file does not begin with a record 01.');
        }
        if ('99' !== $records[\count($records) - 1]['code']) {
            throw Refused::because('file', 'The file does not end with a record 99; it is cut off.');
        }

        return $records;
    }

    /**
     * @param BaiRecord $head
     * @param list<BaiRecord> $rows
     * @param BaiRecord $trailer
     */
    private function statement(array $head, array $rows, array $trailer, Day $day, string $groupCurrency): BankStatement
    {
        $currency = Currency::of($head['fields'][1] ?? '' ?: $groupCurrency);
        $balances = [];
        $control = 0;
        // type, amount, count, funds; funds S and V and D bring fields of their own
        $fields = \array_slice($head['fields'], 2);
        while (\count($fields) >= 2 && '' !== $fields[0]) {
            $type = (string) array_shift($fields);
            $typed = (string) array_shift($fields);
            array_shift($fields);
            self::funds($fields, $head['line']);
            if ('' !== $typed) {
                $balances[$type] = self::amount($typed, $currency, $head['line']);
                $control += $balances[$type];
            }
        }
        $lines = [];
        foreach ($rows as $row) {
            $line = $this->line($row, $currency, $day);
            $control += abs($line->amount);
            $lines[] = $line;
        }
        $stated = self::amount($trailer['fields'][0] ?? '', $currency, $trailer['line']);
        if ($stated !== $control) {
            throw self::wrong(
                $trailer['line'],
                \sprintf(
                    'says a control total of %s, the records of its account add up to %s',
                    Money::of($stated, $currency->code)->decimal(),
                    Money::of($control, $currency->code)->decimal(),
                ),
            );
        }
        foreach ([self::OPENING => 'opening', self::CLOSING => 'closing'] as $type => $word) {
            if (!isset($balances[$type])) {
                throw self::wrong($head['line'], \sprintf('has no %s ledger balance (%s)', $word, $type));
            }
        }

        return (new BankStatement(
            $day->iso(),
            $head['fields'][0],
            $currency->code,
            $day,
            $day,
            $balances[self::OPENING],
            $balances[self::CLOSING],
            $lines,
        ))->check();
    }

    /** @param BaiRecord $row type, amount, funds, the bank's reference, the customer's, text */
    private function line(array $row, Currency $currency, Day $day): StatementLine
    {
        $fields = $row['fields'];
        $type = (string) array_shift($fields);
        $sign = match (true) {
            1 === preg_match('/\A[1-3]\d\d\z/', $type) => 1,
            1 === preg_match('/\A[4-6]\d\d\z/', $type) => -1,
            default => throw self::wrong($row['line'], \sprintf('has a type “%s”, neither credit nor debit', $type)),
        };
        $amount = self::amount((string) array_shift($fields), $currency, $row['line']);
        $value = self::funds($fields, $row['line']);
        $bank = trim((string) array_shift($fields));
        $customer = trim((string) array_shift($fields));
        $check = 1 === preg_match('/\A4(?:72|75|95)\z/', $type) && 1 === preg_match('/\A\d+\z/', $customer);

        return new StatementLine(
            $day,
            $value,
            $sign * $amount,
            mb_substr(trim(implode(',', $fields)), 0, 500),
            $customer,
            $bank,
            check: $check ? ltrim($customer, '0') : '',
        );
    }

    /**
     * Takes the type of funds, and what it brings, off the fields.
     *
     * @param list<string> $fields
     *
     * @return Day|null the value day, when it is said
     */
    private static function funds(array &$fields, int $line): ?Day
    {
        $value = null;
        switch ((string) array_shift($fields)) {
            case 'S':
                array_splice($fields, 0, 3);
                break;
            case 'V':
                $value = self::day((string) array_shift($fields), $line);
                array_shift($fields);
                break;
            case 'D':
                array_splice($fields, 0, 2 * max(0, (int) array_shift($fields)));
                break;
            default:
                break;
        }

        return $value;
    }

    private static function day(string $yymmdd, int $line): Day
    {
        try {
            return 1 === preg_match('/\A\d{6}\z/', $yymmdd)
                ? Day::of(\sprintf('20%s-%s-%s', ...str_split($yymmdd, 2)), 'file')
                : throw Refused::because('file', '');
        } catch (Refused) {
            throw self::wrong(
                $line,
                \sprintf('has no day such as 260615, but “%s”', mb_strimwidth($yymmdd, 0, 20, '…')),
            );
        }
    }

    /** Amounts have no point: the digits of the currency are in them. */
    private static function amount(string $typed, Currency $currency, int $line): int
    {
        if (1 !== preg_match('/\A[+-]?\d{1,15}\z/', trim($typed))) {
            throw self::wrong(
                $line,
                \sprintf('has “%s” for an amount in %s', mb_strimwidth($typed, 0, 20, '…'), $currency->code),
            );
        }

        return (int) trim($typed);
    }

    private static function wrong(int $line, string $what): Refused
    {
        return Refused::because('file', \sprintf('Line %d of the file %s.', $line, $what));
    }
}
