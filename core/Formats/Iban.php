<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats;

use Nelbix\Core\Refused;

/** International bank account number. Source: ISO 13616, check digits by ISO 7064 MOD 97-10. */
final class Iban
{
    /** Length by country, from the ISO 13616 registry; other countries are checked by their digits alone. From memory. */
    private const LENGTHS = [
        'AT' => 20,
        'BE' => 16,
        'BG' => 22,
        'CH' => 21,
        'CY' => 28,
        'CZ' => 24,
        'DE' => 22,
        'DK' => 18,
        'EE' => 20,
        'ES' => 24,
        'FI' => 18,
        'FR' => 27,
        'GB' => 22,
        'GR' => 27,
        'HR' => 21,
        'HU' => 28,
        'IE' => 22,
        'IS' => 26,
        'IT' => 27,
        'LI' => 21,
        'LT' => 20,
        'LU' => 20,
        'LV' => 21,
        'MT' => 31,
        'NL' => 18,
        'NO' => 15,
        'PL' => 28,
        'PT' => 25,
        'RO' => 24,
        'SE' => 24,
        'SI' => 19,
        'SK' => 24,
    ];

    /**
     * @return string without spaces, in capital letters
     *
     * @throws Refused naming $field
     */
    public static function read(string $text, string $field = 'iban'): string
    {
        $iban = strtoupper((string) preg_replace('/[\s-]+/', '', $text));
        $said = static fn (string $why): Refused => Refused::because(
            $field,
            \sprintf('“%s” is not an IBAN: %s.', mb_strimwidth($text, 0, 45, '…'), $why),
        );
        if (1 !== preg_match('/\A[A-Z]{2}\d{2}[A-Z0-9]{11,30}\z/', $iban)) {
            throw $said('it starts with two letters and two digits and has 15 to 34 characters');
        }
        $length = self::LENGTHS[substr($iban, 0, 2)] ?? null;
        if (null !== $length && \strlen($iban) !== $length) {
            throw $said(
                \sprintf('one of %s has %d characters, this has %d', substr($iban, 0, 2), $length, \strlen($iban)),
            );
        }
        if (1 !== Mod97::of(substr($iban, 4).substr($iban, 0, 4))) {
            throw $said('its check digits do not fit; compare it with the paper');
        }

        return $iban;
    }

    /** An IBAN in groups of four, as it is printed. */
    public static function grouped(string $iban): string
    {
        return rtrim(chunk_split($iban, 4, ' '));
    }
}
