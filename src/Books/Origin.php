<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Nelbix\Core\Ledger\DocumentKind;

/**
 * The document that an item comes from: its own, or the one that its transfers replace. An item that replaces another (claim, hand-over,
 * move to or from prepayment, refund request) carries on its taxes at its rate. Source: rules.md, Transfers.
 */
final readonly class Origin
{
    /**
     * A recursive table "origin" for the head of a query: item_id, document_id, and whether the document is the last of its chain.
     *
     * @param string $items SQL condition on open_item i
     */
    public static function table(string $items): string
    {
        $transfers = "'".implode("', '", DocumentKind::transfers())."'";

        return <<<SQL
        RECURSIVE origin AS (
            SELECT i.id AS item_id, d.id AS document_id, d.against_id, d.kind IN ($transfers) AND d.against_id IS NOT NULL AS carries_on
            FROM open_item i
            JOIN document d ON d.id = i.document_id
            WHERE $items
            UNION ALL
            SELECT o.item_id, d.id, d.against_id, d.kind IN ($transfers) AND d.against_id IS NOT NULL
            FROM origin o
            JOIN document d ON d.id = o.against_id
            WHERE o.carries_on = 1
        )
        SQL;
    }
}
