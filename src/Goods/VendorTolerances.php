<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Matching\Tolerance;
use Nelbix\Core\Matching\Tolerances;

/** How far a vendor's deliveries and invoices may go above what was agreed: the company's bounds, each overridden by the vendor's own. */
final readonly class VendorTolerances
{
    public function __construct(private Connection $db, private Settings $settings)
    {
    }

    public function of(int $companyId, int $partyId): Tolerances
    {
        $values = $this->settings->of($companyId)->values;
        $own = $this->db->fetchAssociative(
            'SELECT match_price_percent, match_price_amount, match_quantity_percent, match_quantity_units, match_total '.
                'FROM party WHERE id = ? AND company_id = ?',
            [$partyId, $companyId],
        );

        return self::read($values)->overriddenBy(self::read(false === $own ? [] : $own));
    }

    /** @param array<string, mixed> $from */
    private static function read(array $from): Tolerances
    {
        $number = static fn (string $key): ?BigDecimal => \in_array($from[$key] ?? '', ['', null], true)
            ? null
            : BigDecimal::of((string) $from[$key]);

        return new Tolerances(
            new Tolerance($number('match_price_percent'), $number('match_price_amount')),
            new Tolerance($number('match_quantity_percent'), $number('match_quantity_units')),
            $number('match_total'),
        );
    }
}
