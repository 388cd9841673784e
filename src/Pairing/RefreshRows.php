<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Bulk;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/**
 * Brings the rows of a set up to date with their sources: new ones come in, those that are free are as they are now, those that the
 * source has no more go, unless they are paired. Call inside a transaction.
 */
final readonly class RefreshRows
{
    public function __construct(private Connection $db, private SourceRows $rows, private Bulk $bulk)
    {
    }

    /**
     * @param (\Closure(int): void)|null $progress is told how many rows are read
     *
     * @return int how many rows there are
     *
     * @throws Refused when a file cannot be read
     */
    public function refresh(PairingSet $set, ?\Closure $progress = null): int
    {
        // free rows are read anew; paired ones stand as they were when they were paired
        $this->db->executeStatement('DELETE FROM pairing_row WHERE set_id = ? AND pair_id IS NULL', [$set->id()]);
        $count = 0;
        foreach (['left', 'right'] as $side) {
            $paired = array_flip(
                $this->db->fetchFirstColumn('SELECT source FROM pairing_row WHERE set_id = ? AND side = ?', [
                    $set->id(),
                    $side,
                ]),
            );
            $new = [];
            $there = [];
            foreach ($this->rows->of($set->source($side), $set->currency) as $r) {
                ++$count;
                if (isset($paired[$r['source']])) {
                    $there[$r['source']] = true;
                    continue;
                }
                $new[] = new PairingRowRecord(
                    $set->id(),
                    $side,
                    $r['source'],
                    mb_substr($r['number'], 0, 60),
                    $r['amount'],
                    $r['base'],
                    Day::of($r['date']),
                    $r['fields'],
                    $r['document'],
                );
                if (\count($new) >= 2_000) {
                    $this->bulk->insert($new);
                    $new = [];
                    null === $progress ? null : $progress($count);
                }
            }
            $this->bulk->insert($new);
            $this->gone($set, $side, array_keys(array_diff_key($paired, $there)));
        }

        return $count;
    }

    /** @param list<int|string> $sources paired rows that the source has no more: settled items, for one */
    private function gone(PairingSet $set, string $side, array $sources): void
    {
        $this->db->executeStatement('UPDATE pairing_row SET gone = 0 WHERE set_id = ? AND side = ?', [
            $set->id(),
            $side,
        ]);
        foreach (array_chunk($sources, 1_000) as $chunk) {
            $this->db->executeStatement(
                'UPDATE pairing_row SET gone = 1 WHERE set_id = ? AND side = ? AND source IN (?)',
                [$set->id(), $side, $chunk],
                [2 => \Doctrine\DBAL\ArrayParameterType::STRING],
            );
        }
    }
}
