<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\Core\ProblemList;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** What the rows of one record say of the record as a whole is the same on all of them. */
#[Exclude]
final class SameOnAll
{
    /**
     * @param non-empty-list<array<string, string>> $rows
     * @param list<string> $columns
     * @param string $what the record, in a word
     */
    public static function check(array $rows, array $columns, string $what, ProblemList $problems): void
    {
        foreach ($rows as $k => $row) {
            foreach ($columns as $column) {
                if ($row[$column] !== $rows[0][$column]) {
                    $problems->add(
                        \sprintf('lines.%d.%s', $k, $column),
                        \sprintf(
                            '“%s” differs from the first row of this %s; it must be the same on all of them.',
                            $column,
                            $what,
                        ),
                    );
                }
            }
        }
    }
}
