<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/**
 * Reads SWIFT MT940, the customer statement: with its blocks or bare, one message or many. Source: SWIFT Standards, Category 9, MT 940
 * Customer Statement Message, fields 20, 25, 28C, 60a, 61, 86, 62a.
 */
final class Mt940Reader implements StatementReader
{
    private const MOST_BYTES = 20_000_000;

    /** Field 61: value day, entry day, mark, funds code, amount, type, references. */
    private const LINE = '/\A(\d{6})(\d{4})?(R?[CD])([A-Z])?(\d{1,12},\d{0,3})([A-Z][A-Z0-9]{3})([^\n]*?)(?:\/\/([^\n]*))?(?:\n(.*))?\z/s';

    public function knows(string $bytes): bool
    {
        return 1 === preg_match('/^:20:/m', substr($bytes, 0, 2_000)) && 1 === preg_match('/^:60[FM]:/m', $bytes);
    }

    public function read(string $bytes): array
    {
        if (\strlen($bytes) > self::MOST_BYTES) {
            throw Refused::because('file', 'The file is too big; at most 20 MB of statements are read.');
        }
        $statements = [];
        foreach ($this->messages($bytes) as $fields) {
            $statements[] = $this->statement($fields);
        }

        return [] === $statements ? throw Refused::because('file', 'The file holds no statement.') : $statements;
    }

    /**
     * @return list<non-empty-list<array{line: int, tag: string, text: string}>> the fields of each message
     *
     * @throws Refused
     */
    private function messages(string $bytes): array
    {
        $messages = [];
        $fields = [];
        $text = mb_check_encoding($bytes, 'UTF-8') ? $bytes : mb_convert_encoding($bytes, 'UTF-8', 'ISO-8859-1');
        foreach (preg_split('/\r\n|\n|\r/', (string) $text) ?: [] as $n => $line) {
            $line = rtrim($line);
            if (1 === preg_match('/\A:(\d{2}[A-Z]?):(.*)\z/s', $line, $m)) {
                if ('20' === $m[1] && [] !== $fields) {
                    $messages[] = $fields;
                    $fields = [];
                }
                $fields[] = ['line' => $n + 1, 'tag' => $m[1], 'text' => $m[2]];
            } elseif ('' !== $line && '-' !== $line && !str_starts_with($line, '-}') && !str_starts_with($line, '{')) {
                if ([] === $fields) {
                    throw self::wrong($n + 1, 'stands before the first field');
                }
                $last = array_pop($fields);
                $fields[] = ['line' => $last['line'], 'tag' => $last['tag'], 'text' => $last['text']."\n".$line];
            }
        }

        return [] === $fields ? $messages : [...$messages, $fields];
    }

    /** @param non-empty-list<array{line: int, tag: string, text: string}> $fields */
    private function statement(array $fields): BankStatement
    {
        $opening = $closing = null;
        [$number, $account, $reference] = ['', '', ''];
        $lines = [];
        foreach ($fields as ['line' => $n, 'tag' => $tag, 'text' => $text]) {
            switch ($tag) {
                case '20':
                    $reference = trim($text);
                    break;
                case '25':
                case '25P':
                    $account = trim((string) strtok($text, "\n"));
                    break;
                case '28':
                case '28C':
                    $number = trim($text);
                    break;
                case '60F':
                case '60M':
                    $opening = self::balance($text, $n);
                    break;
                case '61':
                    $lines[] = self::line(
                        $text,
                        $n,
                        $opening['currency'] ?? throw self::wrong($n, 'comes before the opening balance'),
                    );
                    break;
                case '86':
                    // what stands behind the closing balance is about the statement
                    if ([] !== $lines && null === $closing) {
                        $lines[] = self::told(array_pop($lines), $text);
                    }
                    break;
                case '62F':
                case '62M':
                    $closing = self::balance($text, $n);
                    break;
                default:
                    break;
            }
        }
        if (null === $opening || null === $closing) {
            throw self::wrong(
                $fields[0]['line'],
                null === $opening ? 'has no opening balance' : 'has no closing balance',
            );
        }
        if ($opening['currency']->code !== $closing['currency']->code) {
            throw self::wrong($fields[0]['line'], 'opens in one currency and closes in another');
        }

        return (new BankStatement(
            '' === $number ? $reference : $number,
            $account,
            $opening['currency']->code,
            $opening['day'],
            $closing['day'],
            $opening['amount'],
            $closing['amount'],
            $lines,
        ))->check();
    }

    /**
     * C or D, day, currency, amount: C090218EUR4000,00.
     *
     * @return array{amount: int, day: Day, currency: Currency}
     */
    private static function balance(string $text, int $n): array
    {
        if (1 !== preg_match('/\A([CD])(\d{6})([A-Z]{3})(\d{1,12},\d{0,3})\z/', trim($text), $m)) {
            throw self::wrong($n, 'is no balance such as C260615USD1234,50');
        }
        $currency = Currency::of($m[3]);

        return [
            'amount' => ('C' === $m[1] ? 1 : -1) * self::amount($m[4], $currency, $n),
            'day' => self::day($m[2], $n),
            'currency' => $currency,
        ];
    }

    private static function line(string $text, int $n, Currency $currency): StatementLine
    {
        if (1 !== preg_match(self::LINE, $text, $m)) {
            throw self::wrong($n, 'is no statement line such as 2606150615D12,50NCHKNONREF');
        }
        $value = self::day($m[1], $n);
        $reversal = str_starts_with($m[3], 'R');
        // a reversal of a credit takes money away
        $sign = \in_array($m[3], ['C', 'RD'], true) ? 1 : -1;
        $customer = trim($m[7]);

        return new StatementLine(
            '' === $m[2] ? $value : self::entryDay($m[2], $value, $n),
            $value,
            $sign * self::amount($m[5], $currency, $n),
            trim($m[9] ?? ''),
            'NONREF' === $customer ? '' : $customer,
            trim($m[8] ?? ''),
            check: str_ends_with($m[6], 'CHK') && 1 === preg_match('/\A\d+\z/', $customer) ? $customer : '',
            reversal: $reversal,
        );
    }

    /** Field 86 says what the line is about; with subfields ?20 to ?29 text, ?31 account and ?32 name of the other side. */
    private static function told(StatementLine $line, string $text): StatementLine
    {
        $plain = str_replace("\n", '', $text);
        [$party, $account] = [$line->party, $line->account];
        if (1 === preg_match('/\A\d{3}(.)(?=\d\d)/', $plain, $m)) {
            $said = [];
            foreach (explode($m[1], substr($plain, 4)) as $part) {
                [$code, $words] = [substr($part, 0, 2), substr($part, 2)];
                if (('20' <= $code && $code <= '29') || ('60' <= $code && $code <= '63')) {
                    $said[] = $words;
                } elseif ('31' === $code) {
                    $account = trim($words);
                } elseif ('32' === $code || '33' === $code) {
                    $party = trim($party.$words);
                }
            }
            $plain = implode('', $said);
        } else {
            $plain = str_replace("\n", ' ', $text);
        }

        return new StatementLine(
            $line->day,
            $line->value,
            $line->amount,
            mb_substr(trim('' === $plain ? $line->text : $plain), 0, 500),
            $line->reference,
            $line->bankReference,
            $party,
            $account,
            $line->check,
            $line->reversal,
        );
    }

    private static function day(string $yymmdd, int $n): Day
    {
        try {
            return Day::of(\sprintf('20%s-%s-%s', ...str_split($yymmdd, 2)), 'file');
        } catch (Refused) {
            throw self::wrong($n, \sprintf('has no such day as %s', $yymmdd));
        }
    }

    /** The entry day has no year: the one that is nearest to the value day. */
    private static function entryDay(string $mmdd, Day $value, int $n): Day
    {
        $best = null;
        foreach ([-1, 0, 1] as $more) {
            try {
                $day = Day::of(
                    \sprintf('%04d-%s-%s', $value->year + $more, substr($mmdd, 0, 2), substr($mmdd, 2)),
                    'file',
                );
            } catch (Refused) {
                continue;
            }
            if (null === $best || abs($value->daysUntil($day)) < abs($value->daysUntil($best))) {
                $best = $day;
            }
        }

        return $best ?? throw self::wrong($n, \sprintf('has no such day as %s', $mmdd));
    }

    private static function amount(string $typed, Currency $currency, int $n): int
    {
        $plain = rtrim(str_replace(',', '.', $typed), '.');
        if (1 === preg_match('/\A(\d+)\.(\d*?)0*\z/', $plain, $m)) {
            $plain = '' === $m[2] ? $m[1] : $m[1].'.'.$m[2];
        }
        try {
            return Money::parse($plain, $currency, 'file')->minor;
        } catch (Refused) {
            throw self::wrong($n, \sprintf('has an amount %s that %s does not know', $typed, $currency->code));
        }
    }

    private static function wrong(int $line, string $what): Refused
    {
        return Refused::because('file', \sprintf('Line %d of the statement %s.', $line, $what));
    }
}
