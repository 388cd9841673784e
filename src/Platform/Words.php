<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

/** Numbers of things in words: one is one, and two are two. */
final class Words
{
    /** "1 document", "2 documents"; the plural is given where it is not an s. */
    public static function count(int $n, string $one, ?string $many = null): string
    {
        return number_format($n).' '.(1 === $n ? $one : $many ?? self::many($one));
    }

    private static function many(string $one): string
    {
        return match (true) {
            1 === preg_match('/[^aeiou]y\z/', $one) => substr($one, 0, -1).'ies',
            1 === preg_match('/(s|x|ch|sh)\z/', $one) => $one.'es',
            default => $one.'s',
        };
    }
}
