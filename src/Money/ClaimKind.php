<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

/** Why a part of an item is claimed. Source: rules.md, Transfers, Claim. */
enum ClaimKind: string
{
    case Disputed = 'disputed';
    case CreditToCome = 'credit_due';
    case Other = 'other';
    case WriteOff = 'write_off';

    /** @return non-empty-list<self> what a clerk chooses from */
    public static function chosen(): array
    {
        return [self::Disputed, self::CreditToCome, self::Other];
    }

    public function words(): string
    {
        return match ($this) {
            self::Disputed => 'disputed',
            self::CreditToCome => 'credit note to follow',
            self::Other => 'other',
            self::WriteOff => 'to be written off',
        };
    }
}
