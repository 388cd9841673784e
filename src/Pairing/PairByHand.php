<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Pairing\Pair;
use Nelbix\Core\Refused;

/** Pairs rows that a person picked: exact, unless the set allows a difference. */
final readonly class PairByHand
{
    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private PairingLock $lock,
        private KeepPairs $keep,
        private History $history,
    ) {
    }

    /**
     * @param list<int> $rows of both sides
     *
     * @return int the pair
     *
     * @throws Refused when a row is paired by now, one side has none, or their sums are too far apart
     */
    public function pair(Actor $actor, int $setId, array $rows): int
    {
        return $this->transaction->run(function () use ($actor, $setId, $rows): int {
            $set = $this->lock->set($actor, $setId);
            $this->lock->mustNotRun($set);
            $found = $this->db->fetchAllAssociative(
                'SELECT id, side, amount, pair_id FROM pairing_row WHERE set_id = ? AND id IN (?) ORDER BY id FOR UPDATE',
                [$setId, [0, ...$rows]],
                [1 => ArrayParameterType::INTEGER],
            );
            $sides = ['left' => [], 'right' => []];
            $sums = ['left' => 0, 'right' => 0];
            foreach ($found as $r) {
                if (null !== $r['pair_id']) {
                    throw Refused::because('rows', 'One of the rows is paired by now; load the page anew.');
                }
                $sides[(string) $r['side']][] = (int) $r['id'];
                $sums[(string) $r['side']] += $set->signOf((string) $r['side']) * (int) $r['amount'];
            }
            if (\count($found) !== \count(array_unique($rows)) || [] === $sides['left'] || [] === $sides['right']) {
                throw Refused::because('rows', 'Pick at least one row of each side; then they are paired.');
            }
            $difference = $sums['right'] - $sums['left'];
            if (abs($difference) > $set->handWithin) {
                throw Refused::because(
                    'rows',
                    \sprintf(
                        'The sums of the two sides differ by %s %s; %s.',
                        Typography::amount(abs($difference), $set->currency),
                        $set->currency,
                        0 === $set->handWithin
                            ? 'by hand only what is equal is paired here'
                            : 'by hand at most '.
                                Typography::amount($set->handWithin, $set->currency).
                                ' is allowed here',
                    ),
                );
            }
            $pair = new Pair($sides['left'], $sides['right'], 0, true, $difference);
            $record = $this->keep->keep($actor, $setId, [$pair], null, null, PairState::ByHand)[0];
            $this->history->note($actor, 'pairing_set', $setId, 'paired by hand', (string) $record->id());

            return $record->id();
        });
    }
}
