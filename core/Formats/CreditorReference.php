<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats;

use Nelbix\Core\Refused;

/** The structured creditor reference a payer quotes: RF, two check digits, up to 21 characters. Source: ISO 11649. */
final class CreditorReference
{
    /** @throws Refused when nothing of it can stand in a reference, or it is too long */
    public static function of(string $number): string
    {
        $plain = strtoupper((string) preg_replace('/[^A-Za-z0-9]/', '', $number));
        if ('' === $plain || \strlen($plain) > 21) {
            throw Refused::because(
                'number',
                \sprintf(
                    '“%s” cannot be made a payment reference; it needs 1 to 21 letters and digits.',
                    mb_strimwidth($number, 0, 40, '…'),
                ),
            );
        }

        return 'RF'.Mod97::digits($plain, 'RF').$plain;
    }

    public static function isValid(string $reference): bool
    {
        $plain = strtoupper((string) preg_replace('/\s+/', '', $reference));

        return 1 === preg_match('/\ARF\d{2}[A-Z0-9]{1,21}\z/', $plain)
            && 1 === Mod97::of(substr($plain, 4).substr($plain, 0, 4));
    }

    /** What stands behind RF and its check digits; empty when it is no such reference. */
    public static function numberIn(string $reference): string
    {
        return self::isValid($reference) ? substr(strtoupper((string) preg_replace('/\s+/', '', $reference)), 4) : '';
    }
}
