<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Turns items of a proposal around, as other criteria would have them: what is in is dropped, what is out comes in. All or none. */
final readonly class TurnAround
{
    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private ChangeProposal $change,
        private TakeIn $takeIn,
    ) {
    }

    /**
     * @param non-empty-list<int> $itemIds
     *
     * @throws Refused as dropping and taking in would
     */
    public function turn(Actor $actor, int $proposalId, array $itemIds): void
    {
        $this->transaction->run(function () use ($actor, $proposalId, $itemIds): void {
            $lines = $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT l.item_id, l.is_in, l.dropped
                FROM proposal_line l
                JOIN proposal p ON p.id = l.proposal_id
                WHERE p.id = ? AND p.company_id = ? AND l.item_id IN (?)
                SQL
                ,
                [$proposalId, $actor->companyId, $itemIds],
                [2 => ArrayParameterType::INTEGER],
            );
            if (\count($lines) !== \count(array_unique($itemIds))) {
                throw Refused::because('items', 'An item is not part of this proposal; load the page anew.');
            }
            $which = static fn (bool $in, bool $dropped): array => array_values(
                array_map(
                    static fn (array $l): int => (int) $l['item_id'],
                    array_filter(
                        $lines,
                        static fn (array $l): bool => (bool) $l['is_in'] === $in
                            && (!$in || (bool) $l['dropped'] === $dropped),
                    ),
                ),
            );
            foreach ([[$which(true, false), true], [$which(true, true), false]] as [$ids, $drop]) {
                if ([] !== $ids) {
                    $this->change->change($actor, $proposalId, $ids, $drop);
                }
            }
            if ([] !== ($out = $which(false, false))) {
                $this->takeIn->take($actor, $proposalId, $out);
            }
        });
    }
}
