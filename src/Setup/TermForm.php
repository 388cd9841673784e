<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

/** The sentences with gaps of the terms screen, and the text form that PaymentTerm::fromSpec reads. */
final class TermForm
{
    /** The rows of a term that may be as many as one likes, and what each has beside its step. */
    private const ROWS = ['windows' => ['from', 'to'], 'discounts' => ['percent'], 'instalments' => ['percent']];

    /**
     * @param array<mixed> $raw as the form sends it
     *
     * @return array<string, string>
     */
    public static function toSpec(array $raw): array
    {
        $spec = ['net' => self::step(self::row($raw['net'] ?? null))];
        foreach (['code', 'text', 'use', 'runs_from', 'grace_days', 'retired'] as $key) {
            $spec[$key] = \is_scalar($raw[$key] ?? null) ? trim((string) $raw[$key]) : '';
        }
        foreach (self::ROWS as $name => $own) {
            $words = [];
            foreach (\is_array($raw[$name] ?? null) ? \array_slice($raw[$name], 0, 40) : [] as $row) {
                $row = self::row($row);
                if ('' === implode('', array_intersect_key($row, array_flip([...$own, 'n'])))) {
                    continue;
                }
                $words[] =
                    ('windows' === $name ? $row['from'].'-'.$row['to'].':' : $row['percent'].'@').
                    self::step($row);
            }
            $spec[$name] = implode(' ', $words);
        }

        return $spec;
    }

    /**
     * @param array<string, string> $spec
     *
     * @return array<string, mixed> what the form shows, always with an empty row to go on with
     */
    public static function fromSpec(array $spec): array
    {
        $form = [
            'runs_from' => $spec['runs_from'] ?? 'document',
            'grace_days' => $spec['grace_days'] ?? '0',
            'net' => self::gaps($spec['net'] ?? '0'),
        ];
        foreach (array_keys(self::ROWS) as $name) {
            $form[$name] = [];
            foreach (preg_split('/\s+/', $spec[$name] ?? '', -1, \PREG_SPLIT_NO_EMPTY) ?: [] as $word) {
                [$head, $step] = explode('windows' === $name ? ':' : '@', $word, 2) + [1 => ''];
                [$from, $to] = explode('-', $head, 2) + [1 => ''];
                $form[$name][] = [
                    ...'windows' === $name ? ['from' => $from, 'to' => $to] : ['percent' => $head],
                    ...self::gaps($step),
                ];
            }
        }

        return $form;
    }

    /** @param array<string, string> $row */
    private static function step(array $row): string
    {
        return 'month' === $row['how']
            ? \sprintf(
                '%sm%s',
                1 === preg_match('/\A[+-]/', $row['k']) ? $row['k'] : '+'.('' === $row['k'] ? '0' : $row['k']),
                $row['n'],
            )
            : ('' === $row['n']
                ? '0'
                : $row['n']);
    }

    /** @return array{how: string, n: string, k: string} */
    private static function gaps(string $step): array
    {
        return 1 === preg_match('/\A([+-]\d+)m(\d*)\z/', $step, $m)
            ? ['how' => 'month', 'n' => $m[2], 'k' => ltrim($m[1], '+')]
            : ['how' => 'days', 'n' => $step, 'k' => ''];
    }

    /** @return array<string, string> */
    private static function row(mixed $row): array
    {
        $row = array_map(
            static fn (mixed $v): string => \is_scalar($v) ? mb_substr(trim((string) $v), 0, 20) : '',
            \is_array($row) ? $row : [],
        );

        return [...['how' => 'days', 'n' => '', 'k' => '', 'from' => '', 'to' => '', 'percent' => ''], ...$row];
    }
}
