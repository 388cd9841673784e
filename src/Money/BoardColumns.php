<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\ChosenColumns;

/** What a person wants to see of the items on the board, and in which order; the choice is kept for the next time. */
final readonly class BoardColumns
{
    private const LIST = 'board';

    /** What may stand beside the number, due date and open amount. */
    public const COLUMNS = [
        'dated' => 'Dated',
        'for' => 'For',
        'order' => 'Their order',
        'theirs' => 'Their number',
    ];

    /** By which key of a row it is sorted. */
    public const ORDERS = [
        'due_date' => 'due date',
        'document_date' => 'document date',
        'number' => 'number',
        'their_order' => 'their order',
        'open' => 'amount',
    ];

    public function __construct(private ChosenColumns $chosen)
    {
    }

    /**
     * @param array<mixed> $raw the board's form: with _columns it says what is wanted, which is kept then
     *
     * @return array{columns: list<string>, order: string}
     */
    public function of(Actor $actor, array $raw): array
    {
        $kept = $this->chosen->of($actor, self::LIST);
        $wanted = $kept ?? array_keys(self::COLUMNS);
        if (isset($raw['_columns'])) {
            $typed = \is_array($raw['columns'] ?? null) ? array_filter($raw['columns'], is_string(...)) : [];
            $order = \is_string($raw['order'] ?? null) ? $raw['order'] : '';
            $wanted = array_values(
                array_intersect([...$typed, 'by_'.$order], [...array_keys(self::COLUMNS), ...self::orders()]),
            );
            if ($wanted !== $kept) {
                $this->chosen->choose($actor, self::LIST, $wanted);
            }
        }
        $orders = array_values(array_intersect(self::orders(), $wanted));

        return [
            'columns' => array_values(array_intersect(array_keys(self::COLUMNS), $wanted)),
            'order' => substr($orders[0] ?? 'by_due_date', 3),
        ];
    }

    /** @return list<string> */
    private static function orders(): array
    {
        return array_map(static fn (string $o): string => 'by_'.$o, array_keys(self::ORDERS));
    }

    /**
     * @template R of array<string, mixed>
     *
     * @param list<R> $rows
     *
     * @return list<R> in the order that is wanted; the largest amount first
     */
    public static function sorted(array $rows, string $order): array
    {
        usort(
            $rows,
            static fn (array $a, array $b): int => 'open' === $order
                ? [$b['open'], $a['id']] <=> [$a['open'], $b['id']]
                : [$a[$order], $a['due_date'], $a['id']] <=> [$b[$order], $b['due_date'], $b['id']],
        );

        return $rows;
    }
}
