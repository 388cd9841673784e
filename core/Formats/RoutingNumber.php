<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats;

use Nelbix\Core\Refused;

/** A bank's routing number of nine digits; weighted 3, 7, 1 their sum is a multiple of ten. Source: ABA routing transit numbers. */
final class RoutingNumber
{
    /** @throws Refused naming $field */
    public static function read(string $text, string $field = 'routing_number'): string
    {
        $number = (string) preg_replace('/[\s-]+/', '', $text);
        if (1 !== preg_match('/\A\d{9}\z/', $number)) {
            throw Refused::because(
                $field,
                \sprintf('“%s” is not a routing number; it has nine digits.', mb_strimwidth($text, 0, 30, '…')),
            );
        }
        $sum = 0;
        foreach (str_split($number) as $k => $digit) {
            $sum += (int) $digit * [3, 7, 1][$k % 3];
        }
        if (0 !== $sum % 10 || '000000000' === $number) {
            throw Refused::because(
                $field,
                \sprintf(
                    '%s is not a routing number: its check digit does not fit; compare it with the paper.',
                    $number,
                ),
            );
        }

        return $number;
    }
}
