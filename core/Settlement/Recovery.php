<?php

declare(strict_types=1);

namespace Nelbix\Core\Settlement;

use Nelbix\Core\Ledger\AccountRole;

/** Money that comes for debts that were written off. Source: rules.md, Journal entries, receipt on a debt written off. */
final class Recovery
{
    /**
     * How money is shared over the debts: the one that was named first, then the oldest.
     *
     * @param int $money minor units, positive
     * @param array<int, int> $left what of each debt is not recovered yet, minor units, the oldest first
     * @param int|null $named the debt that the money names
     *
     * @return array<int, int> by debt; its sum is less than the money where so much was not written off
     */
    public static function share(int $money, array $left, ?int $named = null): array
    {
        $order = null !== $named && isset($left[$named]) ? [$named => $left[$named]] + $left : $left;
        $shares = [];
        foreach ($order as $debt => $most) {
            $share = min($money, $most);
            if ($share > 0) {
                $shares[$debt] = $share;
                $money -= $share;
            }
        }

        return $shares;
    }

    /** Where it goes: the recoveries, or the allowance where the debt came from there and the company says so. */
    public static function role(bool $fromAllowance, bool $backToAllowance): AccountRole
    {
        return $fromAllowance && $backToAllowance ? AccountRole::BadDebtAllowance : AccountRole::BadDebtsRecovered;
    }
}
