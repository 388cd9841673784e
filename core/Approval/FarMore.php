<?php

declare(strict_types=1);

namespace Nelbix\Core\Approval;

/**
 * Whether somebody is asked because far more is paid than is owed. Source: rules.md, Before posting; that far more is over twice as much:
 * common practice.
 */
final class FarMore
{
    /**
     * @param int $paid positive, minor units
     * @param int $owed what is open of the vendor's invoices less its credits, the same currency; below zero it owes us
     */
    public static function is(int $paid, int $owed): bool
    {
        return $paid > 2 * $owed;
    }
}
