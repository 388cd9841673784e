<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

/** A document's number, or an order's, as people write it into the text of a payment. Source: rules.md, Proposing where a receipt goes. */
final class DocumentName
{
    /**
     * True when the text names a document: its letters, year and number with any punctuation between them, or the year and
     * the whole number with its zeros. An amount such as 26,388.00 names nothing.
     */
    public static function isIn(string $text, string $number): bool
    {
        [$document, $part] = [...explode('/', $number, 2), null];
        $groups = preg_split('/[^A-Z0-9]+/', strtoupper((string) $document), -1, \PREG_SPLIT_NO_EMPTY) ?: [];
        if ([] === $groups) {
            return false;
        }
        // asked of very many: a text without its last digits, or letters, does not name it
        if (!str_contains(strtoupper($text), ltrim($groups[\count($groups) - 1], '0'))) {
            return false;
        }
        $gap = '[^A-Z0-9]{0,3}';
        $full = implode(
            $gap,
            array_map(
                static fn (string $g): string => ctype_digit($g) ? '0*'.ltrim($g, '0') : preg_quote($g, '/'),
                $groups,
            ),
        );
        $patterns = 1 === preg_match('/[A-Z]/', $groups[0]) || 1 === \count($groups) ? [$full] : [];
        $last = $groups[\count($groups) - 1];
        if (\count($groups) > 2 && str_starts_with($last, '0')) {
            // but not the tail of another kind of number
            $patterns[] = '(?<![A-Z][^A-Z0-9 ])'.implode($gap, \array_slice($groups, 1));
        }
        // "/2" names that instalment only; without it all of them are meant
        $after = '(?![A-Z0-9])(?!\/\d)';
        $ending = null === $part ? $after : '(?:\/'.preg_quote($part, '/').'(?![0-9])|'.$after.')';

        return 1 ===
            preg_match(
                '/(?<![A-Z0-9])(?:'.implode('|', [] === $patterns ? [$full] : $patterns).')'.$ending.'/',
                strtoupper($text),
            );
    }
}
