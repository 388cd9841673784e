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
    /** The steps of item i as one column, for reader(): day, percent and amount of each, the earliest first. */
    public const STEPS = <<<'SQL'
    (SELECT GROUP_CONCAT(CONCAT_WS(' ', x.through, x.percent, x.amount) ORDER BY x.through SEPARATOR ',')
    FROM item_discount x WHERE x.item_id = i.id)
    SQL;

    public function __construct(private Connection $db)
    {
    }

    /**
     * For whoever reads very many items and holds none: a row of open_item i with STEPS as steps becomes its discount.
     *
     * @param list<int>|null $itemIds only of these; null for all that are open
     *
     * @return \Closure(array<string, mixed>): ?EarlyDiscount
     */
    public function reader(int $companyId, Side $side, ?array $itemIds = null): \Closure
    {
        $only = null === $itemIds ? '' : ' AND i.id IN ('.implode(',', array_map('intval', [0, ...$itemIds])).')';
        $credits = $this->credits($companyId, $side, $only);

        return static function (array $row) use ($credits): ?EarlyDiscount {
            if (null === $row['steps']) {
                return null;
            }
            $steps = [];
            foreach (explode(',', (string) $row['steps']) as $step) {
                [$through, $percent, $amount] = explode(' ', $step);
                $steps[] = new DatedDiscount(Day::of($through), BigDecimal::of($percent), (int) $amount);
            }
            $of = new EarlyDiscount(
                (int) $row['original'],
                (int) $row['discount_base'],
                $steps,
                (int) $row['grace_days'],
            );
            $credit = $credits[(int) $row['id']] ?? null;

            return null === $credit ? $of : $of->lowered(...$credit);
        };
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
        $read = $this->reader($companyId, $side, $itemIds);
        $only = null === $itemIds ? '' : ' AND i.id IN ('.implode(',', array_map('intval', $itemIds)).')';
        $steps = self::STEPS;
        $discounts = [];
        foreach (
            $this->db->iterateAssociative(
                <<<SQL
                SELECT i.id, i.original, i.discount_base, i.grace_days, $steps AS steps
                FROM open_item i
                WHERE i.company_id = ? AND i.side = ? AND i.open <> 0$only
                ORDER BY i.id
                SQL
                ,
                [$companyId, $side->value],
            ) as $row
        ) {
            $discount = $read($row);
            if (null !== $discount) {
                $discounts[(int) $row['id']] = $discount;
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
