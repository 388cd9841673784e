<?php

declare(strict_types=1);

namespace Nelbix\Core\OpenItems;

use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Problem;

/**
 * A vendor's list of what it holds open against us, compared with our open items by the vendor's own numbers. Numbers are
 * alike after punctuation, case and leading zeros are taken away. Source: common practice of reconciling a statement of account.
 */
final readonly class StatementCheck
{
    private const MOST_LINES = 2000;

    /**
     * @param list<array{number: string, theirs: int, ours: int, items: list<int>}> $same both have it, with one amount
     * @param list<array{number: string, theirs: int, ours: int, items: list<int>}> $different both have it, with two amounts
     * @param list<array{number: string, theirs: int, ours: int, items: list<int>}> $weLack only they have it
     * @param list<array{number: string, theirs: int, ours: int, items: list<int>}> $theyLack only we have it
     */
    private function __construct(
        public array $same,
        public array $different,
        public array $weLack,
        public array $theyLack,
    ) {
    }

    /**
     * @param list<array{number: string, amount: int}> $theirs minor units; negative for a credit
     * @param list<array{id: int, number: string, open: int}> $ours number as the vendor gave it, what is open
     */
    public static function compare(array $theirs, array $ours): self
    {
        $rows = [];
        foreach ($theirs as $row) {
            $key = self::key($row['number']);
            $rows[$key] ??= ['number' => $row['number'], 'theirs' => 0, 'ours' => 0, 'items' => [], 'has' => false];
            $rows[$key]['theirs'] += $row['amount'];
            $rows[$key]['has'] = true;
        }
        foreach ($ours as $row) {
            $key = self::key($row['number']);
            $rows[$key] ??= ['number' => $row['number'], 'theirs' => 0, 'ours' => 0, 'items' => [], 'has' => false];
            $rows[$key]['ours'] += $row['open'];
            $rows[$key]['items'][] = $row['id'];
        }
        $found = ['same' => [], 'different' => [], 'weLack' => [], 'theyLack' => []];
        foreach ($rows as $row) {
            $has = $row['has'];
            unset($row['has']);
            $found[
                match (true) {
                    [] === $row['items'] => 'weLack',
                    !$has => 'theyLack',
                    $row['ours'] === $row['theirs'] => 'same',
                    default => 'different',
                }
            ][] = $row;
        }

        return new self($found['same'], $found['different'], $found['weLack'], $found['theyLack']);
    }

    /**
     * Reads what was pasted: a line each, the number first and the amount last, apart by tabs, semicolons, commas or spaces.
     * A line without any amount is a heading and is left out.
     *
     * @param list<Problem> $problems gets a problem for each line that has an amount and no number
     *
     * @return list<array{number: string, amount: int}>
     */
    public static function read(string $pasted, Currency $currency, array &$problems): array
    {
        $rows = [];
        // what parts columns may stand at a line's end, too; thousands may be apart by an apostrophe or a thin space
        $lines = array_map(
            static fn (string $line): string => (string) preg_replace(
                ['/[\s;,]+\z/u', "/(?<=\\d)['’\u{202f}](?=\\d{3})/u"],
                '',
                $line,
            ),
            preg_split('/\R/u', mb_scrub($pasted), self::MOST_LINES + 1) ?: [],
        );
        $commas = self::hasDecimalCommas($lines);
        if (null === $commas) {
            $problems[] = new Problem(
                'statement',
                'Some amounts end in a decimal comma and some in a decimal point; paste them written in one way.',
            );

            return [];
        }
        foreach ($lines as $k => $line) {
            if ($k >= self::MOST_LINES) {
                $problems[] = new Problem(
                    'statement',
                    \sprintf('At most %d lines are compared at once.', self::MOST_LINES),
                    $k + 1,
                );
                break;
            }
            $cells = array_values(
                array_filter(
                    array_map(
                        static fn (string $c): string => trim($c, " \"\u{a0}"),
                        preg_split($commas ? '/\t|;|\s{2,}/u' : '/\t|;|,(?!\d{3}(?!\d))|\s{2,}/u', trim($line)) ?: [],
                    ),
                    static fn (string $c): bool => '' !== $c,
                ),
            );
            if (1 === \count($cells)) {
                $cells = array_values(array_filter(explode(' ', $cells[0]), static fn (string $c): bool => '' !== $c));
            }
            $last = (string) preg_replace('/\A[A-Z]{3}\s*|\s*[A-Z]{3}\z/', '', $cells[\count($cells) - 1] ?? '');
            if (1 === preg_match('/\A[-−(]?\d{1,3}([ \x{a0}]\d{3})+([.,]\d+)?\)?[-−]?\z/u', $last)) {
                $last = (string) preg_replace('/[ \x{a0}]/u', '', $last);
            }
            if ($commas) {
                $last = strtr($last, ['.' => ',', ',' => '.']);
            }
            if (1 !== preg_match('/\A[-−(]?\s*\d[\d,]*(\.\d+)?\)?[-−]?\z/u', $last)) {
                // what ends as amounts do, and is no day, is not left out without a word
                if (
                    1 === preg_match('/\d[.,](\d{1,3}\)?[-−]?|[-–—]+)(\s*[A-Z]{3})?\z/u', $line)
                    && 1 !== preg_match('/(?<![\d.,])\d{1,2}\.\d{1,2}\.\d{2}\z/', $line)
                ) {
                    $problems[] = new Problem(
                        'statement',
                        \sprintf(
                            'Line %d: the amount cannot be told apart in “%s”; put a semicolon or a tab before it.',
                            $k + 1,
                            mb_strimwidth($line, 0, 40, '…'),
                        ),
                        $k + 1,
                    );
                }
                continue;
            }
            if (\count($cells) < 2) {
                $problems[] = new Problem(
                    'statement',
                    \sprintf('Line %d has an amount and no number: “%s”.', $k + 1, mb_strimwidth($line, 0, 40, '…')),
                    $k + 1,
                );
                continue;
            }
            $negative = 1 === preg_match('/\A[-−(]|[-−]\z/u', $last);
            try {
                $amount = AmountInput::read((string) preg_replace('/[^\d.,]/u', '', $last), $currency, 'statement')
                    ->minor;
            } catch (\Nelbix\Core\Refused $e) {
                $problems[] = new Problem('statement', \sprintf('Line %d: %s', $k + 1, $e->getMessage()), $k + 1);
                continue;
            }
            $rows[] = ['number' => $cells[0], 'amount' => $negative ? -$amount : $amount];
        }

        return $rows;
    }

    /**
     * Whether the amounts at the ends of the lines are written with a decimal comma; null where some are and some are not.
     *
     * @param list<string> $lines
     */
    private static function hasDecimalCommas(array $lines): ?bool
    {
        $behind = '\)?\s*[-−]?\s*([A-Z]{3})?\s*\z/u';
        // thousands by points, or a comma that no thousands could stand behind, and that is not what parts two columns
        $comma = array_filter(
            $lines,
            static fn (string $l): bool => 1 ===
                preg_match('/(\d\.\d{3},\d{1,2}|(?:\A|[\t;\s(−-])\d+,\d{1,2})'.$behind, $l),
        );
        $point = array_filter($lines, static fn (string $l): bool => 1 === preg_match('/\d\.\d{1,2}'.$behind, $l));

        return [] !== $comma && [] !== $point ? null : [] !== $comma;
    }

    /** What two spellings of a number have in common. */
    public static function key(string $number): string
    {
        $plain = strtoupper((string) preg_replace('/[^\p{L}\p{N}]+/u', '', $number));

        return (string) preg_replace('/(?<!\d)0+(?=\d)/', '', $plain);
    }
}
