<?php

declare(strict_types=1);

namespace Nelbix\Core\TieOut;

/** One named line that explains part of a difference. Amount = ledger − items, in the account's normal sign, base minor units. */
final readonly class Explanation
{
    public const BYPASS = 'bypass entry';
    public const NO_ITEM = 'entry without an item';
    public const NO_ENTRY = 'item without an entry';
    public const SIGNED_OFF = 'difference of days before the last sign-off';
    public const MOVED = 'moved since it was signed off';
    public const WITHIN = 'items whose open amount is not what their settlements leave';
    public const BASE_DIFFERS = 'item’s base amount differs from its entry';

    public function __construct(
        public string $source,
        public string $date,
        public int $amount,
        public string $why,
        public string $text = '',
        public string $by = '',
    ) {
    }
}
