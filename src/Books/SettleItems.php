<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Settles items of one party against each other without money: a credit or prepayment against invoices. */
final readonly class SettleItems
{
    public function __construct(
        private Transaction $transaction,
        private SettlementBook $book,
        private History $history,
        private MayPay $mayPay,
        private Connection $db,
    ) {
    }

    /**
     * @param string|null $lookAlikeReason why it is not the one it looks like; null when nobody can be asked
     *
     * @return int the settlement's id
     *
     * @throws Refused when it does not add up to zero, an item is reserved or was settled meanwhile, or it looks like one that is there
     */
    public function settle(
        Actor $actor,
        SettlementRequest $request,
        ?FormKey $form = null,
        ?string $lookAlikeReason = null,
    ): int {
        return $this->transaction->once($actor, 'settlement', $form, function () use (
            $actor,
            $request,
            $lookAlikeReason,
        ): int {
            if ([] === $request->placements) {
                throw Refused::because('items', 'Nothing is placed; place a credit on what is owed.');
            }
            $this->mayPay->mayBeSettled(array_column($request->placements, 'item'));
            if ('' === $lookAlikeReason && $this->wasSettledSo($request)) {
                throw Refused::because(
                    'look_alike_reason',
                    'The very same was settled on the same day already. Say why it is another one, or leave it out.',
                    ProblemKind::Asks,
                );
            }
            $id = $this->book->settle($actor, $request);
            $this->history->note($actor, 'settlement', $id, 'settled', $request->text);
            if (null !== $lookAlikeReason && '' !== $lookAlikeReason) {
                $this->history->note($actor, 'settlement', $id, 'not the one it looks like', $lookAlikeReason);
            }

            return $id;
        });
    }

    /** A settlement without money that stands, of the same day, with the same amounts on the same items. */
    private function wasSettledSo(SettlementRequest $request): bool
    {
        $first = $request->placements[0];
        $placed = array_map(
            static fn (PlacementRequest $p): string => $p->item.' '.$p->applied,
            $request->placements,
        );
        sort($placed);

        return false !==
            $this->db->fetchOne(
                <<<'SQL'
                SELECT s.id
                FROM settlement_line f
                JOIN settlement s ON s.id = f.settlement_id AND s.document_id IS NULL AND s.undone_on IS NULL AND s.settled_on = ?
                JOIN settlement_line l ON l.settlement_id = s.id
                WHERE f.item_id = ? AND f.applied = ?
                GROUP BY s.id
                HAVING GROUP_CONCAT(CONCAT(l.item_id, ' ', l.applied) ORDER BY CONCAT(l.item_id, ' ', l.applied) SEPARATOR ',') = ?
                LIMIT 1
                SQL
                ,
                [$request->date->iso(), $first->item, $first->applied, implode(',', $placed)],
            );
    }
}
