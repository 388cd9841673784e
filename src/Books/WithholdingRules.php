<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Tax\Withholding;

/** What tax is withheld on open items: by the percent of the party, on what was invoiced, with what earlier payments withheld. */
final readonly class WithholdingRules
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * @param list<int>|null $itemIds only of these; null for all that are open
     *
     * @return array<int, Withholding> by item, of those of which anything is withheld
     */
    public function open(int $companyId, Side $side, ?array $itemIds = null): array
    {
        if ([] === $itemIds) {
            return [];
        }
        $only = null === $itemIds ? 'i.open <> 0' : 'i.id IN ('.implode(',', array_map('intval', $itemIds)).')';
        $rules = [];
        $rows = $this->db->iterateAssociative(
            <<<SQL
            SELECT i.id, i.kind, d.net, d.total, d.discount_base, p.withholding_percent, t.paid, t.discounted, t.withheld
            FROM open_item i
            JOIN party p ON p.id = i.party_id AND p.withholding_percent IS NOT NULL
            JOIN document d ON d.id = i.document_id AND d.total <> 0
            LEFT JOIN (
                SELECT l.item_id, SUM(l.applied) AS paid,
                    -SUM((SELECT COALESCE(SUM(x.amount), 0) FROM settlement_adjustment x
                        WHERE x.settlement_id = s.id AND x.item_id = l.item_id AND x.kind = 'discount')) AS discounted,
                    -SUM((SELECT COALESCE(SUM(x.amount), 0) FROM settlement_adjustment x
                        WHERE x.settlement_id = s.id AND x.item_id = l.item_id AND x.kind = 'withholding')) AS withheld
                FROM settlement s
                JOIN settlement_line l ON l.settlement_id = s.id
                JOIN document m ON m.id = s.document_id AND m.kind IN ('payment', 'receipt') AND m.reverses_id IS NULL
                WHERE s.company_id = :company AND s.side = :side AND s.undone_on IS NULL
                GROUP BY l.item_id
            ) t ON t.item_id = i.id
            WHERE i.company_id = :company AND i.side = :side AND $only
            SQL
            ,
            ['company' => $companyId, 'side' => $side->value],
        );
        foreach ($rows as $r) {
            if (DocumentKind::from((string) $r['kind'])->isInvoiced()) {
                $rules[(int) $r['id']] = new Withholding(
                    BigDecimal::of($r['withholding_percent']),
                    (int) $r['net'],
                    (int) $r['total'],
                    (int) $r['discount_base'] !== (int) $r['total'] && 0 !== (int) $r['discount_base'],
                    (int) $r['paid'],
                    (int) $r['discounted'],
                    (int) $r['withheld'],
                );
            }
        }

        return $rules;
    }
}
