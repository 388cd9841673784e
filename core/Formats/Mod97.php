<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats;

/** The remainder by 97 of digits and letters, letters counting from A = 10. Source: ISO 7064, MOD 97-10. */
final class Mod97
{
    /** @param string $text digits and capital letters */
    public static function of(string $text): int
    {
        $rest = 0;
        foreach (str_split($text) as $c) {
            $value = ctype_digit($c) ? (int) $c : \ord($c) - 55;
            $rest = ($rest * ($value > 9 ? 100 : 10) + $value) % 97;
        }

        return $rest;
    }

    /** The two check digits that make $text followed by $tail leave 1. */
    public static function digits(string $text, string $tail): string
    {
        return \sprintf('%02d', 98 - self::of($text.$tail.'00'));
    }
}
