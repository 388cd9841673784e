<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

use Nelbix\Core\Formats\Csv;
use Nelbix\Core\Refused;

/**
 * Which column of a bank's CSV is what. A bank writes one amount with its sign, or what came in and what went out in a column each.
 * Columns are named by their heading, so that a bank may move them.
 *
 * @phpstan-type Columns array<string, string>
 */
final readonly class CsvMapping
{
    /** What a column may be. */
    public const FIELDS = [
        'day',
        'value',
        'amount',
        'in',
        'out',
        'balance',
        'text',
        'text2',
        'reference',
        'bank_reference',
        'party',
        'account',
        'check',
    ];

    /** How a bank may write days, as PHP has it, and as a person reads it. */
    public const DAYS = [
        'Y-m-d' => '2026-06-15',
        'd.m.Y' => '15.06.2026',
        'd/m/Y' => '15/06/2026',
        'm/d/Y' => '06/15/2026',
        'Ymd' => '20260615',
        'd-m-Y' => '15-06-2026',
    ];

    /** By what a heading is guessed. */
    private const GUESSES = [
        'day' => '/\A(booking ?|posting ?|transaction ?|trans\. ?)?(date|day)( posted)?\z/i',
        'value' => '/value/i',
        'amount' => '/\Aamount/i',
        'in' => '/\A(credit|paid in|in|deposit)/i',
        'out' => '/\A(debit|paid out|out|withdrawal)/i',
        'balance' => '/balance/i',
        'text' => '/(text|description|details|purpose|memo)/i',
        'bank_reference' => '/bank ref/i',
        'reference' => '/ref/i',
        'party' => '/(name|payee|payer|party|counterpart)/i',
        'account' => '/(iban|account)/i',
        'check' => '/che(ck|que)/i',
    ];

    /**
     * @param Columns $columns heading by field
     * @param string $days one of DAYS
     * @param string $decimal "." or ","
     * @param bool $turned what goes out is above zero in the file
     */
    public function __construct(
        public array $columns,
        public string $days = 'Y-m-d',
        public string $decimal = '.',
        public bool $turned = false,
    ) {
    }

    /**
     * A first reading of a file's headings and first lines, for a person to look at.
     *
     * @param list<list<string>> $rows of Csv::table, the headings first
     */
    public static function guess(array $rows): self
    {
        $columns = [];
        foreach ($rows[0] ?? [] as $heading) {
            foreach (self::GUESSES as $field => $pattern) {
                if (
                    !isset($columns[$field])
                    && !\in_array($heading, $columns, true)
                    && 1 === preg_match($pattern, $heading)
                ) {
                    $columns[$field] = $heading;
                    break;
                }
            }
        }
        $at = isset($columns['day']) ? array_search($columns['day'], $rows[0], true) : false;
        $sample = array_filter(
            array_map(static fn (array $r): string => false === $at ? '' : $r[$at] ?? '', \array_slice($rows, 1)),
        );
        $days = 'Y-m-d';
        foreach (array_keys(self::DAYS) as $format) {
            if (
                [] !== $sample
                && [] === array_filter($sample, static fn (string $d): bool => !self::isDay($d, $format))
            ) {
                $days = $format;
                break;
            }
        }
        $cells = array_merge([], ...\array_slice($rows, 1, 20));
        $ends = static fn (string $mark): int => \count(
            preg_grep('/\A[-+(]?[\d.,’ \']*'.$mark.'\d{2}\)?-?\z/', $cells) ?: [],
        );

        return new self($columns, $days, $ends(',') > $ends('\.') ? ',' : '.');
    }

    /**
     * @param array<mixed> $raw columns by field, days, decimal, turned
     *
     * @throws Refused naming the field that is missing
     */
    public static function of(array $raw): self
    {
        $text = static fn (mixed $v): string => \is_string($v) ? mb_substr(trim($v), 0, 120) : '';
        $columns = [];
        $given = \is_array($raw['columns'] ?? null) ? $raw['columns'] : [];
        foreach (self::FIELDS as $field) {
            if ('' !== $text($given[$field] ?? '')) {
                $columns[$field] = $text($given[$field]);
            }
        }
        if (!isset($columns['day'])) {
            throw Refused::because('columns.day', 'Say which column holds the day.');
        }
        if (!isset($columns['amount']) && !isset($columns['in'], $columns['out'])) {
            throw Refused::because(
                'columns.amount',
                'Say which column holds the amount, or which two hold what came in and went out.',
            );
        }
        $days = $text($raw['days'] ?? '');
        $decimal = $text($raw['decimal'] ?? '');
        if (!isset(self::DAYS[$days])) {
            throw Refused::because('days', 'Choose how the file writes days.');
        }
        if (!\in_array($decimal, ['.', ','], true)) {
            throw Refused::because('decimal', 'Choose the decimal mark of the file.');
        }

        return new self($columns, $days, $decimal, \in_array($raw['turned'] ?? false, [true, 1, '1', 'yes'], true));
    }

    /** @return array{columns: Columns, days: string, decimal: string, turned: bool} as of() reads it */
    public function raw(): array
    {
        return [
            'columns' => $this->columns,
            'days' => $this->days,
            'decimal' => $this->decimal,
            'turned' => $this->turned,
        ];
    }

    public static function isDay(string $typed, string $format): bool
    {
        $day = \DateTimeImmutable::createFromFormat('!'.$format, $typed, new \DateTimeZone('UTC'));

        return false !== $day && $day->format($format) === $typed;
    }

    /**
     * @return list<list<string>> a file's first rows, for the preview
     *
     * @throws Refused
     */
    public static function firstRows(string $bytes, int $most = 12): array
    {
        return array_map(static fn (array $r): array => $r['cells'], \array_slice(Csv::table($bytes), 0, $most));
    }
}
