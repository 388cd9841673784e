<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Payment;

/**
 * A payment file for whoever looks at it: of each account number the last four characters, everything else as the bank gets it. Source:
 * the places of account numbers in ISO 20022 pain.001 and pain.008 (IBAN, Othr/Id), and in an ACH entry detail record (type 6, positions
 * 13 to 29); that four are shown: common practice.
 */
final class Masked
{
    /** @param string $file pain.001, pain.008 or ACH, as it was made */
    public static function of(string $file): string
    {
        return (string) preg_replace_callback_array(
            [
                '~(<(?:\w+:)?IBAN>)([^<]*)~' => self::account(...),
                '~(<(?:\w+:)?Othr>\s*<(?:\w+:)?Id>)([^<]*)~' => self::account(...),
                '~^(6\d{11})([^\r\n]{17})~m' => self::account(...),
            ],
            $file,
        );
    }

    /** @param array<array-key, string> $m what stands before the number, and the number, padded or not */
    private static function account(array $m): string
    {
        $number = rtrim($m[2]);
        $hidden = max(0, \strlen($number) - 4);

        return $m[1].str_repeat('•', $hidden).substr($number, $hidden).substr($m[2], \strlen($number));
    }
}
