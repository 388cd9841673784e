<?php

declare(strict_types=1);

namespace Nelbix\Core\Aging;

use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** What one line of an aging has open as of a day under one date and one class of item: the input of an aging. */
final readonly class AgingSum
{
    public const ITEM = 'item';
    public const CREDIT = 'credit';
    public const PREPAYMENT = 'prepayment';

    /**
     * @param int|string $key of the line: a party, an account, a group
     * @param string $date ISO day the aging goes by: due, document or posting date
     * @param string $class one of the constants
     * @param int $amount minor units, item's sign
     */
    public function __construct(
        public int|string $key,
        public string $date,
        public string $class,
        public int $amount,
    ) {
    }

    /** By what it is, not by its sign: an opposite item of a bounced receipt is a credit taken back. */
    public static function classOf(DocumentKind $kind, Side $side): string
    {
        return match (true) {
            $kind->isPrepaid() => self::PREPAYMENT,
            $kind->itemSign($side) < 0 => self::CREDIT,
            default => self::ITEM,
        };
    }

    /** @return list<string> the kinds of document whose items are of a class */
    public static function kindsOf(string $class, Side $side): array
    {
        return array_values(
            array_column(
                array_filter(
                    DocumentKind::cases(),
                    static fn (DocumentKind $k): bool => self::classOf($k, $side) === $class,
                ),
                'value',
            ),
        );
    }
}
