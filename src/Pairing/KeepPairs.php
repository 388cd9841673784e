<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\Core\Pairing\Pair;
use Psr\Clock\ClockInterface;

/** Stores pairs with their rows, many a statement. Call inside a transaction that holds the set. */
final readonly class KeepPairs
{
    public function __construct(private Connection $db, private Bulk $bulk, private ClockInterface $clock)
    {
    }

    /**
     * @param list<Pair> $pairs
     * @param PairState|null $state null for what each says of itself
     *
     * @return list<PairRecord>
     */
    public function keep(
        Actor $actor,
        int $setId,
        array $pairs,
        ?int $runId,
        ?int $ruleId,
        ?PairState $state = null,
    ): array {
        $now = $this->clock->now();
        $records = array_map(
            static fn (Pair $p): PairRecord => new PairRecord(
                $setId,
                $runId,
                $ruleId,
                $p->rule,
                $state ?? ($p->certain ? PairState::Certain : PairState::Asked),
                $p->difference,
                $actor->userId,
                $now,
            ),
            $pairs,
        );
        $this->bulk->insert($records);
        $of = [];
        foreach ($pairs as $k => $pair) {
            foreach ([...$pair->left, ...$pair->right] as $row) {
                $of[$row] = ['pair_id' => $records[$k]->id()];
            }
        }
        if ([] !== $of) {
            $this->bulk->update('pairing_row', $of);
        }

        return $records;
    }

    /**
     * Rows that several fit equally, of the last run.
     *
     * @param list<int> $rows
     */
    public function tied(int $setId, array $rows): void
    {
        foreach (array_chunk($rows, 1_000) as $chunk) {
            $this->db->executeStatement(
                'UPDATE pairing_row SET tied = 1 WHERE set_id = ? AND pair_id IS NULL AND id IN (?)',
                [$setId, $chunk],
                [1 => \Doctrine\DBAL\ArrayParameterType::INTEGER],
            );
        }
    }

    /** @param list<int> $pairs whose rows are free again */
    public function free(array $pairs): void
    {
        foreach (array_chunk($pairs, 1_000) as $chunk) {
            $this->db->executeStatement(
                'UPDATE pairing_row SET pair_id = NULL WHERE pair_id IN (?)',
                [$chunk],
                [\Doctrine\DBAL\ArrayParameterType::INTEGER],
            );
        }
    }
}
