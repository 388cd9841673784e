<?php

declare(strict_types=1);

namespace Nelbix\Core\Aging;

/** What somebody has still to pay of what is due, after the credits it has: they lower what is due first. Source: common practice. */
final class DueNet
{
    /**
     * @template K of array-key
     *
     * @param array<K, int> $due minor units, the earliest first
     * @param int $credit minor units, 0 or more
     *
     * @return array<K, int> what is left of each; nothing is below zero, what the credits have beyond all of it is not money to come
     */
    public static function of(array $due, int $credit): array
    {
        foreach ($due as $key => $amount) {
            $taken = min($credit, max(0, $amount));
            $due[$key] = $amount - $taken;
            $credit -= $taken;
        }

        return $due;
    }
}
