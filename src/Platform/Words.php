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

    /** The name of a column as a person reads it: "their_number" is "Their number". */
    public static function heading(string $name): string
    {
        return ucfirst(str_replace('_', ' ', $name));
    }

    private static function many(string $one): string
    {
        return match (true) {
            1 === preg_match('/[^aeiou]y\z/', $one) => substr($one, 0, -1).'ies',
            1 === preg_match('/(s|x|ch|sh)\z/', $one) => $one.'es',
            default => $one.'s',
        };
    }

    /** What waits, after its count: "vendor drafts wait" is "vendor draft waits" of one. Its verb says that it is of many. */
    public static function agree(int $n, string $many): string
    {
        if (
            1 !== $n
            || 1 !==
                preg_match(
                    '/\A(.*?)(\w+?)(ies|e?s)( of \w+)? (are|were|await|wait|lapse|stand|stay)\b(.*)\z/u',
                    $many,
                    $m,
                )
        ) {
            return 1 === $n ? (string) preg_replace('/\A(\w+)s\b/', '$1', $many, 1) : $many;
        }
        $noun = match (true) {
            'ies' === $m[3] => $m[2].'y',
            'es' === $m[3] && 1 === preg_match('/(s|x|ch|sh)\z/', $m[2]) => $m[2],
            'es' === $m[3] => $m[2].'e',
            default => $m[2],
        };
        $verb = ['are' => 'is', 'were' => 'was'][$m[5]] ?? $m[5].'s';

        return $m[1].$noun.$m[4].' '.$verb.self::rest($m[6]);
    }

    /** A second verb after "and". */
    private static function rest(string $text): string
    {
        return (string) preg_replace_callback(
            '/ and (are|were|stand|wait)\b/',
            static fn (array $m): string => ' and '.(['are' => 'is', 'were' => 'was'][$m[1]] ?? $m[1].'s'),
            $text,
        );
    }
}
