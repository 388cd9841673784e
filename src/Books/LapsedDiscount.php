<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\Connection;

/**
 * The discount that a payment had taken before it was voided: one made again may keep it, though its days are over, because the run is
 * approved.
 */
final readonly class LapsedDiscount
{
    public function __construct(private Connection $db)
    {
    }

    /** @return int minor units, positive; 0 when no voided payment took one */
    public function of(int $itemId): int
    {
        $had = (int) $this->db->fetchOne(
            <<<SQL
            SELECT MAX(-x.amount)
            FROM settlement_adjustment x
            JOIN settlement s ON s.id = x.settlement_id AND s.undone_on IS NOT NULL
            JOIN document d ON d.id = s.document_id AND d.kind = 'payment' AND d.state = 'reversed'
            WHERE x.kind = 'discount' AND x.item_id = ?
            SQL
            ,
            [$itemId],
        );
        // what other payments took of it since
        $taken = (int) $this->db->fetchOne(
            <<<SQL
            SELECT SUM(-x.amount)
            FROM settlement_adjustment x
            JOIN settlement s ON s.id = x.settlement_id AND s.undone_on IS NULL
            WHERE x.kind = 'discount' AND x.item_id = ?
            SQL
            ,
            [$itemId],
        );

        return max(0, $had - $taken);
    }
}
