<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats;

use Nelbix\Core\Refused;

/**
 * What a creditor is known by to those it collects from. Source: EPC262-08, Creditor Identifier Overview: country, two check digits by
 * ISO 7064 MOD 97-10 without the business code, business code of three, national identifier.
 */
final class CreditorIdentifier
{
    /** @throws Refused naming $field when it is none */
    public static function read(string $text, string $field): string
    {
        $id = strtoupper((string) preg_replace('/\s+/', '', $text));
        if (1 !== preg_match('/\A[A-Z]{2}\d{2}[A-Z0-9]{3}[A-Z0-9]{1,28}\z/', $id)) {
            throw Refused::because(
                $field,
                'A creditor identifier is two letters, two check digits, three of a business code, and the national number.',
            );
        }
        if (1 !== Mod97::of(substr($id, 7).substr($id, 0, 4))) {
            throw Refused::because($field, 'The check digits of the creditor identifier do not fit; look for a slip.');
        }

        return $id;
    }
}
