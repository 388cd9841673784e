<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

/**
 * The order of a list, and the place where its next page begins: the values of the last row shown, so that a page costs the same
 * however deep it lies and a row that comes in meanwhile moves none onto a second page.
 */
final readonly class Keyset
{
    /**
     * @param list<string> $columns SQL of what is sorted by, none of it nullable, the last of it different in every row
     * @param bool $down the greatest first
     */
    public function __construct(public array $columns, public bool $down = false)
    {
    }

    /** The columns for SELECT, as k0, k1 … */
    public function select(): string
    {
        $sql = [];
        foreach ($this->columns as $k => $column) {
            $sql[] = "$column AS k$k";
        }

        return implode(', ', $sql);
    }

    public function order(): string
    {
        return implode(', ', array_map(fn (string $c): string => $c.($this->down ? ' DESC' : ''), $this->columns));
    }

    /**
     * What comes after a row. The first column is compared alone too, for the sake of its index.
     *
     * @param string|null $place of a link; null or nonsense begins at the top
     *
     * @return array{string, array<string, string|int>} SQL that begins with AND, or nothing; and its values
     */
    public function after(?string $place): array
    {
        $values = self::read($place, \count($this->columns));
        if (null === $values) {
            return ['', []];
        }
        $than = $this->down ? '<' : '>';
        $with = $equal = $ways = [];
        foreach ($this->columns as $k => $column) {
            $with["k$k"] = $values[$k];
            $ways[] = '('.implode(' AND ', [...$equal, "$column $than :k$k"]).')';
            $equal[] = "$column = :k$k";
        }

        return [" AND {$this->columns[0]} $than= :k0 AND (".implode(' OR ', $ways).')', $with];
    }

    /** @param array<string, mixed> $row with the columns of select() */
    public function place(array $row): string
    {
        $values = array_map(static fn (int $k): mixed => $row["k$k"], array_keys($this->columns));

        return rtrim(strtr(base64_encode(json_encode($values, \JSON_THROW_ON_ERROR)), '+/', '-_'), '=');
    }

    /**
     * The rows of a page out of one more than it shows.
     *
     * @template T of array<string, mixed>
     *
     * @param list<T> $rows
     *
     * @return array{list<T>, ?string} and the place after them when there are more
     */
    public function page(array $rows, int $size): array
    {
        return \count($rows) <= $size ? [$rows, null] : [\array_slice($rows, 0, $size), $this->place($rows[$size - 1])];
    }

    /**
     * All rows, read in pages, so that a long file never stands in memory as a whole.
     *
     * @template T of array<string, mixed>
     *
     * @param callable(?string, int): list<T> $read from a place, at most so many
     *
     * @return \Generator<int, T>
     */
    public function each(callable $read, int $size = 2000): \Generator
    {
        $place = null;
        do {
            [$rows, $place] = $this->page($read($place, $size + 1), $size);
            foreach ($rows as $row) {
                yield $row;
            }
        } while (null !== $place);
    }

    /** @return list<string|int>|null */
    private static function read(?string $place, int $columns): ?array
    {
        $values = json_decode((string) base64_decode(strtr((string) $place, '-_', '+/'), true), true, 2);
        $plain =
            \is_array($values)
            && array_is_list($values)
            && [] === array_filter($values, static fn (mixed $v): bool => !\is_string($v) && !\is_int($v));

        return $plain && \count($values) === $columns ? $values : null;
    }
}
