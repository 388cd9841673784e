<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

/** One row of the grid: an invoice of at most two lines, to and from the form it is kept as. */
final readonly class GridRow
{
    /** What people write in a cell for the kinds. */
    private const KINDS = [
        'c' => 'credit_note',
        'credit' => 'credit_note',
        'credit note' => 'credit_note',
        'd' => 'debit_note',
        'debit' => 'debit_note',
        'debit note' => 'debit_note',
        '' => 'invoice',
        'i' => 'invoice',
    ];

    /**
     * @param \Closure(string): string $text a cell by the name of its column, '' for none; and look_alike_reason
     *
     * @return array<string, mixed> the form of the invoice
     */
    public static function form(\Closure $text, Batch $batch): array
    {
        $lines = [
            [
                'account' => $text('account'),
                'amount' => $text('amount'),
                'tax_code' => $text('tax_code'),
                'text' => $text('text'),
                'cost_center' => $text('cost_center'),
            ],
        ];
        if ('' !== $text('account_2').$text('amount_2')) {
            $lines[] = [
                'account' => $text('account_2'),
                'amount' => $text('amount_2'),
                'tax_code' => $text('tax_code_2'),
                'text' => $text('text'),
                'cost_center' => $text('cost_center'),
            ];
        }

        return [
            'kind' => self::KINDS[mb_strtolower($text('kind'))] ?? $text('kind'),
            'party' => $text('party'),
            'number' => $text('number'),
            // a pile of one day is dated once
            'document_date' => '' === $text('document_date') ? $batch->postingDate->long() : $text('document_date'),
            'posting_date' => $batch->postingDate->long(),
            'due_date' => $text('due_date'),
            'terms' => $text('terms'),
            'currency' => $text('currency'),
            'description' => $text('text'),
            'look_alike_reason' => $text('look_alike_reason'),
            'day_meant' => $text('day_meant'),
            'lines' => $lines,
        ];
    }

    /**
     * The cells of a draft that the grid can hold; null when it has more than a row shows, and is opened as a form.
     *
     * @param array<mixed> $input the form that was kept
     *
     * @return array<string, string>|null by column, and what was answered: look_alike_reason, day_meant
     */
    public static function cells(array $input): ?array
    {
        $lines = array_values(
            array_filter(
                \is_array($input['lines'] ?? null) ? $input['lines'] : [],
                static fn (mixed $l): bool => \is_array($l) && '' !== implode('', array_filter($l, is_string(...))),
            ),
        );
        $text = static fn (mixed $v): string => \is_string($v) ? $v : '';
        $first = \is_array($lines[0] ?? null) ? $lines[0] : [];
        $second = \is_array($lines[1] ?? null) ? $lines[1] : null;
        $cells = [
            'look_alike_reason' => $text($input['look_alike_reason'] ?? ''),
            'day_meant' => $text($input['day_meant'] ?? ''),
        ];
        foreach (GridColumn::cases() as $column) {
            $name = explode('.', $column->field());
            $cells[$column->value] = $text(
                1 === \count($name)
                    ? $input[$name[0]] ?? ''
                    : ('0' === $name[1] ? $first : $second ?? [])[$name[2]] ?? '',
            );
        }
        $cells['text'] = '' === $cells['text'] ? $text($input['description'] ?? '') : $cells['text'];
        $cells['kind'] = 'invoice' === $cells['kind'] ? '' : $cells['kind'];

        return \count($lines) <= 2 && self::isAllOf($input, $first, $second, $cells) ? $cells : null;
    }

    /**
     * Nothing of the form is lost in the row.
     *
     * @param array<mixed> $input
     * @param array<mixed> $first
     * @param array<mixed>|null $second
     * @param array<string, string> $cells
     */
    private static function isAllOf(array $input, array $first, ?array $second, array $cells): bool
    {
        $filled = static fn (array $of): array => array_filter(
            $of,
            static fn (mixed $v): bool => \is_string($v) && '' !== $v,
        );
        $known = ['posting_date' => 1, 'description' => 1, 'batch' => 1, ...$cells];
        $rest = array_diff_key($filled($input), $known);
        $line = array_flip(['account', 'amount', 'tax_code', 'cost_center', 'text']);
        $kindless = static fn (array $l): array => 'line' === ($l['kind'] ?? '')
            ? array_diff_key($l, ['kind' => 1])
            : $l;
        $taxes = \is_array($input['tax'] ?? null) ? $filled($input['tax']) : [];

        return [] === $rest
            && [] === $taxes
            && \in_array($input['description'] ?? '', ['', $cells['text']], true)
            && [] === array_diff_key($filled($kindless($first)), $line)
            && (null === $second
                || ([] === array_diff_key($filled($kindless($second)), $line)
                    && $cells['cost_center'] === ($second['cost_center'] ?? '')
                    && $cells['text'] === ($second['text'] ?? '')));
    }
}
