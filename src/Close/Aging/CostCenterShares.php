<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Aging;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Aging\AgingSum;
use Nelbix\Core\Money\Shares;

/**
 * What is open of documents, shared over the cost centers of their lines in the proportion of their nets, by largest remainder; what has
 * no lines (money, claims) belongs to none, key 0. A thousand documents at a time.
 */
final readonly class CostCenterShares
{
    private const AT_ONCE = 1000;

    public function __construct(private Connection $db)
    {
    }

    /**
     * @param iterable<array{AgingSum, string}> $sums by document id, each with its currency
     *
     * @return \Generator<int, array{AgingSum, string}> by cost center id
     */
    public function of(iterable $sums): \Generator
    {
        $waiting = [];
        foreach ($sums as $sum) {
            $waiting[] = $sum;
            if (self::AT_ONCE === \count($waiting)) {
                yield from $this->shared($waiting);
                $waiting = [];
            }
        }
        yield from $this->shared($waiting);
    }

    /**
     * @param list<int> $documents
     *
     * @return array<int, array<int, int>> net by cost center, by document
     */
    public function weights(array $documents): array
    {
        $weights = [];
        if ([] !== $documents) {
            foreach (
                $this->db->iterateNumeric(
                    <<<'SQL'
                    SELECT document_id, COALESCE(cost_center_id, 0), SUM(net)
                    FROM document_line
                    WHERE document_id IN (?)
                    GROUP BY 1, 2
                    ORDER BY 1, 2
                    SQL
                    ,
                    [$documents],
                    [ArrayParameterType::INTEGER],
                ) as [$document, $center, $net]
            ) {
                $weights[(int) $document][(int) $center] = (int) $net;
            }
        }

        return $weights;
    }

    /**
     * @param array<int, int> $weights
     *
     * @return array<int, int> parts of the amount by cost center
     */
    public static function split(int $amount, array $weights): array
    {
        return 0 === array_sum($weights) ? [0 => $amount] : Shares::split($amount, $weights);
    }

    /**
     * @param list<array{AgingSum, string}> $sums
     *
     * @return \Generator<int, array{AgingSum, string}>
     */
    private function shared(array $sums): \Generator
    {
        $weights = $this->weights(
            array_values(array_unique(array_map(static fn (array $s): int => (int) $s[0]->key, $sums))),
        );
        foreach ($sums as [$sum, $currency]) {
            foreach (self::split($sum->amount, $weights[(int) $sum->key] ?? []) as $center => $part) {
                if (0 !== $part) {
                    yield [new AgingSum($center, $sum->date, $sum->class, $part), $currency];
                }
            }
        }
    }
}
