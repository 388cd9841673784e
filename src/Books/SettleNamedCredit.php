<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Shares;

/** A credit note lowers the invoice it names. */
final readonly class SettleNamedCredit
{
    public function __construct(private SettlementBook $book, private ItemLocks $items, private Connection $db)
    {
    }

    public function settle(Actor $actor, int $creditId, int $invoiceId, Day $postingDate, BigDecimal $rate): void
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT id, document_id, side, currency, posting_date
            FROM open_item
            WHERE document_id IN (?, ?) AND company_id = ?
            ORDER BY id
            SQL
            ,
            [$creditId, $invoiceId, $actor->companyId],
        );
        $items = $this->items->lock($actor, array_map(static fn (array $r): int => (int) $r['id'], $rows));
        $credit = null;
        $open = [];
        foreach ($items as $id => $item) {
            if ($item->document->id() === $creditId) {
                $credit = $item;
            } elseif ($item->open > 0) {
                $open[$id] = $item->open;
            }
        }
        if (null === $credit || [] === $open || $credit->currency !== $items[array_key_first($open)]->currency) {
            return;
        }
        $amount = min(-$credit->open, array_sum($open));
        $placements = [new PlacementRequest($credit->id(), -$amount)];
        foreach (Shares::split($amount, $open) as $id => $part) {
            if (0 !== $part) {
                $placements[] = new PlacementRequest($id, $part);
            }
        }
        $day = Day::latest(
            $postingDate,
            ...array_values(array_map(static fn ($i): Day => $i->postingDate, array_intersect_key($items, $open))),
        );
        $this->book->settle(
            $actor,
            new SettlementRequest($credit->side, $placements, [], $day, $rate, $credit->document),
        );
    }
}
