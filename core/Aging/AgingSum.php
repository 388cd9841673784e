<?php

declare(strict_types=1);

namespace Nelbix\Core\Aging;

/** What a party has open as of a day under one date and one class of item: the input of an aging. */
final readonly class AgingSum
{
    public const ITEM = 'item';
    public const CREDIT = 'credit';
    public const PREPAYMENT = 'prepayment';

    /**
     * @param string $date ISO day the aging goes by: due, document or posting date
     * @param string $class one of the constants
     * @param int $amount minor units, item's sign
     */
    public function __construct(public int $party, public string $date, public string $class, public int $amount)
    {
    }
}
