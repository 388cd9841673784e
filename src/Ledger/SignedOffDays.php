<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/**
 * Days of control accounts that a controller signed off. Nothing is posted into them, unless the company says that it is and stays marked;
 * what is signed off of one control account of a party ledger holds for that whole ledger.
 */
final readonly class SignedOffDays
{
    public function __construct(private Connection $db, private Settings $settings)
    {
    }

    /**
     * @param list<Side> $sides
     *
     * @return Day|null the last signed-off day of these party ledgers; null when none is, or when the company lets it be posted into
     */
    public function through(int $companyId, array $sides): ?Day
    {
        $roles = array_merge(...array_map(AccountRole::controlsOf(...), $sides));

        return [] === $roles
            ? null
            : $this->last(
                $companyId,
                "a.role IN ('".
                    implode("', '", array_map(static fn (AccountRole $r): string => $r->value, $roles)).
                    "')",
                [],
            );
    }

    /**
     * @param list<int> $accounts
     *
     * @throws Refused when one of them was signed off through that day or a later one
     */
    public function mustBeFree(int $companyId, Day $day, array $accounts, string $field = 'posting_date'): void
    {
        $through = [] === $accounts ? null : $this->last($companyId, 's.account_id IN (?)', $accounts);
        if (null !== $through && !$day->isAfter($through)) {
            throw self::refused($through, $field);
        }
    }

    public static function refused(Day $through, string $field): Refused
    {
        return Refused::because(
            $field,
            \sprintf(
                'The control account is signed off through %s; choose a date from %s on, or ask a controller.',
                $through->long(),
                $through->plusDays(1)->long(),
            ),
        );
    }

    /** @param list<int> $accounts */
    private function last(int $companyId, string $which, array $accounts): ?Day
    {
        if ('marked' === $this->settings->of($companyId)->values['signed_off_days']) {
            return null;
        }
        $last = $this->db->fetchOne(
            "SELECT MAX(s.as_of) FROM sign_off s JOIN account a ON a.id = s.account_id WHERE s.company_id = ? AND $which",
            [$companyId, ...[] === $accounts ? [] : [$accounts]],
            [1 => ArrayParameterType::INTEGER],
        );

        return \is_string($last) ? Day::of($last) : null;
    }
}
