<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Exchange rates of a company: base units per one unit. A blank rate is the last one on or before the day; none is a refusal. */
final readonly class Rates
{
    public function __construct(private Connection $db)
    {
    }

    /** @throws Refused naming $field when there is none on or before the day */
    public function on(int $companyId, string $currency, string $base, Day $day, string $field = 'rate'): BigDecimal
    {
        return $this->find($companyId, $currency, $base, $day) ??
            throw Refused::because(
                $field,
                \sprintf(
                    'There is no rate from %s to %s on or before %s; type one, or import rates.',
                    $currency,
                    $base,
                    $day->long(),
                ),
                ProblemKind::Missing,
            );
    }

    /**
     * What an amount is worth when somebody decides on it: as it was booked, or at the table's rate when that is more, so that no typed
     * rate takes it below a limit.
     *
     * @param int $amount minor units of the currency
     * @param int $booked minor units of the base currency
     */
    public function worth(int $companyId, string $currency, string $base, Day $day, int $amount, int $booked): int
    {
        $rate = $this->find($companyId, $currency, $base, $day);

        return null === $rate ? $booked : max($booked, InvoiceEntry::base($amount, $currency, $base, $rate));
    }

    /** Whether a typed rate is more than ten percent off the table's. */
    public static function isFarOff(BigDecimal $typed, BigDecimal $table): bool
    {
        return $typed->minus($table)->abs()->multipliedBy(10)->isGreaterThan($table);
    }

    /** The day of the last rate on or before a day; null when there is none, or none is needed. */
    public function dayOf(int $companyId, string $currency, string $base, Day $day): ?Day
    {
        $found = $this->db->fetchOne(
            <<<'SQL'
            SELECT MAX(valid_on)
            FROM exchange_rate
            WHERE company_id = ? AND from_currency = ? AND to_currency = ? AND valid_on <= ?
            SQL
            ,
            [$companyId, $currency, $base, $day->iso()],
        );

        return \is_string($found) ? Day::of($found) : null;
    }

    /** The last rate on or before a day; null when there is none. */
    public function find(int $companyId, string $currency, string $base, Day $day): ?BigDecimal
    {
        if ($currency === $base) {
            return BigDecimal::one();
        }
        $rate = $this->db->fetchOne(
            <<<'SQL'
            SELECT rate
            FROM exchange_rate
            WHERE company_id = ? AND from_currency = ? AND to_currency = ? AND valid_on <= ?
            ORDER BY valid_on DESC
            LIMIT 1
            SQL
            ,
            [$companyId, $currency, $base, $day->iso()],
        );

        return \is_string($rate) ? BigDecimal::of($rate) : null;
    }
}
