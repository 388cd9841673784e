<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\Terms\DatedDiscount;
use Nelbix\Core\Terms\EarlyDiscount;

/** Reads the early-payment discounts of open items, in one query however many there are. */
final readonly class DiscountSteps
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @param list<int>|null $itemIds only of these; null for all that are open
     *
     * @return array<int, EarlyDiscount> by item, of those that have one
     */
    public function open(int $companyId, Side $side, ?array $itemIds = null): array
    {
        if ([] === $itemIds) {
            return [];
        }
        $only = null === $itemIds ? '' : ' AND i.id IN ('.implode(',', array_map('intval', $itemIds)).')';
        $discounts = $steps = $days = [];
        $of = null;
        foreach (
            $this->db->iterateNumeric(
                <<<SQL
                SELECT x.item_id, x.through, x.percent, x.amount, i.original, i.discount_base, i.grace_days
                FROM open_item i
                JOIN item_discount x ON x.item_id = i.id
                WHERE i.company_id = ? AND i.side = ? AND i.open <> 0$only
                ORDER BY x.item_id, x.through
                SQL
                ,
                [$companyId, $side->value],
            ) as [$item, $through, $percent, $amount, $original, $base, $grace]
        ) {
            $steps = $item === $of ? $steps : [];
            $of = $item;
            $steps[] = new DatedDiscount(
                $days[$through] ??= Day::of((string) $through),
                BigDecimal::of($percent),
                (int) $amount,
            );
            $discounts[(int) $item] = new EarlyDiscount((int) $original, (int) $base, $steps, (int) $grace);
        }
        foreach ([] === $discounts ? [] : $this->credits($companyId, $side, $only) as $item => [$total, $base]) {
            if (isset($discounts[$item])) {
                $discounts[$item] = $discounts[$item]->lowered($total, $base);
            }
        }

        return $discounts;
    }

    /**
     * What credit notes that name an invoice took of its items: their total, and their own discount base in proportion.
     *
     * @return array<int, array{int, int}> by item
     */
    private function credits(int $companyId, Side $side, string $only): array
    {
        $found = [];
        $rows = $this->db->iterateNumeric(
            <<<SQL
            SELECT i.id, l.applied, c.total, c.discount_base
            FROM document c
            JOIN settlement s ON s.document_id = c.id AND s.undone_on IS NULL
            JOIN settlement_line l ON l.settlement_id = s.id
            JOIN open_item i ON i.id = l.item_id AND i.document_id = c.against_id
            WHERE c.company_id = ? AND c.side = ? AND c.against_id IS NOT NULL AND c.reverses_id IS NULL AND c.total <> 0
                AND i.open <> 0$only
            SQL
            ,
            [$companyId, $side->value],
        );
        foreach ($rows as [$item, $applied, $total, $base]) {
            $found[(int) $item] ??= [0, 0];
            $found[(int) $item][0] += (int) $applied;
            $found[(int) $item][1] += Rounding::proportion((int) $applied, (int) $base, (int) $total);
        }

        return $found;
    }
}
