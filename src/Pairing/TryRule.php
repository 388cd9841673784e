<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Pairing\Pair;
use Nelbix\Core\Pairing\RowPairer;

/** What a rule would take of the rows that are over now; nothing is paired by it. */
final readonly class TryRule
{
    private const EXAMPLES = 10;

    public function __construct(private Connection $db, private FreeRows $free, private RefreshRows $refresh)
    {
    }

    /**
     * @param array<string, mixed> $clauses as Clauses::read gives them
     *
     * @return array{left: int, right: int, pairs: int, rows: int, ties: int, differs: int,
     *     examples: list<array{left: list<array<string, mixed>>, right: list<array<string, mixed>>, difference: int}>}
     */
    public function try(PairingSet $set, array $clauses): array
    {
        $left = array_column($this->free->of($set, 'left'), null, 'id');
        $right = array_column($this->free->of($set, 'right'), null, 'id');
        if ([] === $left && [] === $right) {
            // a set that was never run has no rows yet
            $this->refresh->refresh($set);
            $left = array_column($this->free->of($set, 'left'), null, 'id');
            $right = array_column($this->free->of($set, 'right'), null, 'id');
        }
        $found = RowPairer::byRule($left, $right, Clauses::rule(1, $clauses, $set->currency));
        $some = \array_slice($found->pairs, 0, self::EXAMPLES);
        $ids = array_merge([], ...array_map(static fn (Pair $p): array => [...$p->left, ...$p->right], $some));
        $rows = $this->db->fetchAllAssociativeIndexed(
            'SELECT id, id AS row_id, number, amount, dated FROM pairing_row WHERE id IN (?)',
            [[0, ...$ids]],
            [ArrayParameterType::INTEGER],
        );
        $of = static fn (array $side): array => array_values(
            array_map(static fn (int $id): array => $rows[$id] ?? [], $side),
        );

        return [
            'left' => \count($left),
            'right' => \count($right),
            'pairs' => \count($found->pairs),
            'rows' => array_sum(
                array_map(static fn (Pair $p): int => \count($p->left) + \count($p->right), $found->pairs),
            ),
            'ties' => \count($found->tiedLeft) + \count($found->tiedRight),
            'differs' => array_sum(array_map(static fn (Pair $p): int => $p->difference, $found->pairs)),
            'examples' => array_map(
                static fn (Pair $p): array => [
                    'left' => $of($p->left),
                    'right' => $of($p->right),
                    'difference' => $p->difference,
                ],
                $some,
            ),
        ];
    }
}
