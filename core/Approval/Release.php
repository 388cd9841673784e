<?php

declare(strict_types=1);

namespace Nelbix\Core\Approval;

/**
 * Who may take away what keeps money from leaving: a hold of a document, a payment stop of a vendor. Source: rules.md, Who may alone, and
 * with whom.
 */
final class Release
{
    /**
     * Whoever set it may, and whoever approves.
     *
     * @param int $who the person who releases
     * @param int|null $setBy null when nobody knows any more
     * @param bool $approves whether the person may approve
     *
     * @return string|null why not; null when they may
     */
    public static function refuses(int $who, ?int $setBy, bool $approves): ?string
    {
        return $who === $setBy || $approves ? null : 'whoever set it releases it, or somebody who approves';
    }

    /** What waits for a decision is taken away by its author, or by somebody who approves. */
    public static function mayDrop(int $who, ?int $author, bool $approves): bool
    {
        return $who === $author || $approves;
    }

    /**
     * Somebody else's hold that a person released is not paid by that person on the same day.
     *
     * @param int $payer who pays, or approves that it is paid
     */
    public static function keepsFromPaying(int $payer, ?int $releasedBy, ?int $setBy, bool $sameDay): bool
    {
        return $sameDay && $payer === $releasedBy && $releasedBy !== $setBy;
    }
}
