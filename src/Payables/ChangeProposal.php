<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Drops items from a proposal in review, or takes them back in. A dropped item is free at once. */
final readonly class ChangeProposal
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ProposalDesk $desk,
        private ItemLocks $items,
        private History $history,
    ) {
    }

    /**
     * @param list<int> $itemIds
     *
     * @throws Refused when an item does not belong to it, or is held by another proposal by now
     */
    public function change(Actor $actor, int $proposalId, array $itemIds, bool $drop): void
    {
        $this->transaction->run(function () use ($actor, $proposalId, $itemIds, $drop): void {
            $items = $this->items->lock($actor, $itemIds);
            $proposal = $this->desk->change($actor, $proposalId, [ProposalState::Review, ProposalState::Refused]);
            /** @var list<ProposalLine> $lines */
            $lines = $this->entities
                ->getRepository(ProposalLine::class)
                ->findBy(['proposal' => $proposal, 'itemId' => $itemIds, 'isIn' => true]);
            if (\count($lines) !== \count($items)) {
                throw Refused::because('', 'An item is not part of this proposal.');
            }
            foreach ($lines as $line) {
                $item = $items[$line->itemId];
                if ($line->dropped === $drop) {
                    continue;
                }
                if (!$drop && (null !== $item->reservedById || $item->open !== $line->open)) {
                    throw Refused::because(
                        '',
                        \sprintf(
                            '%s is in another proposal or was settled by now; it cannot come back in.',
                            $item->number,
                        ),
                    );
                }
                $line->dropped = $drop;
                if ($drop && $line->added) {
                    // what the clerk took in goes back to where it was
                    $line->isIn = $line->added = $line->dropped = false;
                    $line->payment = null;
                    $line->applied = $line->open;
                    $line->discount = $line->offered = $line->withholding = 0;
                }
                $item->reserve($drop ? null : $proposal->reservation());
                $this->history->note(
                    $actor,
                    'proposal',
                    $proposal->id(),
                    $drop ? 'dropped '.$item->number : 'restored '.$item->number,
                );
            }
            if (ProposalState::Refused === $proposal->state) {
                $proposal->state = ProposalState::Review;
            }
        });
    }

    /** Drops the whole proposal; every item is free again. Not once checks are printed. */
    public function dropAll(Actor $actor, int $proposalId): void
    {
        $this->transaction->run(function () use ($actor, $proposalId): void {
            $ids = array_map(
                'intval',
                $this->entities
                    ->getConnection()
                    ->fetchFirstColumn('SELECT id FROM open_item WHERE reserved_by_id = ? AND company_id = ?', [
                        $proposalId,
                        $actor->companyId,
                    ]),
            );
            $items = $this->items->lock($actor, $ids);
            $proposal = $this->desk->change($actor, $proposalId, [
                ProposalState::Review,
                ProposalState::Refused,
                ProposalState::Approved,
            ]);
            foreach ($items as $item) {
                $item->reserve(null);
            }
            $proposal->state = ProposalState::Dropped;
            $this->history->note($actor, 'proposal', $proposal->id(), 'dropped');
        });
    }
}
