<?php

declare(strict_types=1);

namespace Nelbix\Core\Aging;

/** Where an aging shows what lowers a balance. Source: rules.md, Aging. */
enum Credits: string
{
    /** Credits and unapplied money in a column, prepayments in another. */
    case Own = 'own';

    /** Credits and unapplied money in the bucket of their own date, prepayments in their column. */
    case Netted = 'netted';

    /** Prepayments too. */
    case All = 'all';

    public function nets(string $class): bool
    {
        return match ($class) {
            AgingSum::CREDIT => self::Own !== $this,
            AgingSum::PREPAYMENT => self::All === $this,
            default => true,
        };
    }

    public function words(): string
    {
        return match ($this) {
            self::Own => 'own columns',
            self::Netted => 'credits netted',
            self::All => 'all netted',
        };
    }
}
