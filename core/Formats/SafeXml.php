<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats;

use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * The one way in which XML from outside is read: UTF-8 only, no document type, nothing fetched, no entity replaced, and limits of size,
 * depth, elements and the length of a tag. They are counted in one pass over the bytes before any parser sees them: a parser needs a
 * time for the attributes of one tag that grows with their square, and a memory for elements that is many times their text.
 */
final class SafeXml
{
    private const MOST_ELEMENTS = 200_000;
    private const MOST_DEPTH = 50;
    private const MOST_OF_A_TAG = 8_000;

    /**
     * @param int $mostBytes of the file
     * @param string $what the file is, in words, for the refusal
     *
     * @throws Refused when it is too large, is no XML, or declares a document type
     */
    public static function load(string $xml, int $mostBytes, string $what, string $field = 'file'): \DOMDocument
    {
        if (\strlen($xml) > $mostBytes) {
            throw Refused::because(
                $field,
                \sprintf('The file is too big; at most %d MB of %s are read.', intdiv($mostBytes, 1_000_000), $what),
                ProblemKind::TooMuch,
            );
        }
        self::count($xml, $what, $field);
        $before = libxml_use_internal_errors(true);
        try {
            if (self::declaresType($xml)) {
                throw Refused::because(
                    $field,
                    \sprintf('The file declares a document type, which %s does not need; it is not read.', $what),
                );
            }
            $document = new \DOMDocument();
            if (
                '' === trim($xml)
                || !$document->loadXML($xml, \LIBXML_NONET | \LIBXML_NOBLANKS)
                || null !== $document->doctype
            ) {
                throw Refused::because($field, \sprintf('The file is not %s: it is no well-formed XML.', $what));
            }

            return $document;
        } finally {
            libxml_clear_errors();
            libxml_use_internal_errors($before);
        }
    }

    /** @throws Refused when it holds what no parser should be given */
    private static function count(string $xml, string $what, string $field): void
    {
        $refuse = static fn (string $why): Refused => Refused::because(
            $field,
            \sprintf('The file is not read as %s: %s.', $what, $why),
            ProblemKind::TooMuch,
        );
        if (
            !mb_check_encoding($xml, 'UTF-8')
            || str_contains($xml, "\0")
            || 1 === preg_match('/\A(?:\xEF\xBB\xBF)?\s*<\?xml[^>]*encoding\s*=\s*["\'](?!utf-8["\'])/i', $xml)
        ) {
            throw $refuse('it is not UTF-8 text');
        }
        $elements = $at = 0;
        /** @var int $depth */
        $depth = 0;
        while (false !== ($at = strpos($xml, '<', min($at, \strlen($xml))))) {
            // what is no element has its own end; a document type is found by whoever looks for it
            foreach (['<!--' => '-->', '<![CDATA[' => ']]>', '<?' => '?>'] as $opens => $closes) {
                if (0 === substr_compare($xml, $opens, $at, \strlen($opens))) {
                    $end = strpos($xml, $closes, $at);
                    $at = false === $end ? \strlen($xml) : $end + \strlen($closes);
                    continue 2;
                }
            }
            $end = self::endOfTag($xml, $at);
            if ($end - $at > self::MOST_OF_A_TAG) {
                throw $refuse(\sprintf('a tag is longer than %d characters', self::MOST_OF_A_TAG));
            }
            if ('/' === ($xml[$at + 1] ?? '')) {
                --$depth;
            } else {
                ++$elements;
                $depth += '/' === ($xml[$end - 1] ?? '') ? 0 : 1;
            }
            if ($elements > self::MOST_ELEMENTS || $depth > self::MOST_DEPTH) {
                throw $refuse(
                    $depth > self::MOST_DEPTH
                        ? \sprintf('it is nested deeper than %d', self::MOST_DEPTH)
                        : \sprintf('it has more than %d elements', self::MOST_ELEMENTS),
                );
            }
            $at = $end + 1;
        }
    }

    /** The place of the > that ends a tag: none in the value of an attribute, whose end is never looked for further than a tag may be. */
    private static function endOfTag(string $xml, int $at): int
    {
        $most = $at + self::MOST_OF_A_TAG + 1;
        for ($i = $at + 1; $i <= $most; ++$i) {
            $i += strcspn($xml, '>"\'', $i, max(0, $most - $i));
            $char = $xml[$i] ?? '';
            if ('>' === $char || '' === $char) {
                return $i;
            }
            if ('"' === $char || "'" === $char) {
                $i += 1 + strcspn($xml, $char, $i + 1, max(0, $most - $i));
            }
        }

        return $i;
    }

    private static function declaresType(string $xml): bool
    {
        $reader = '' === $xml ? false : \XMLReader::XML($xml, null, \LIBXML_NONET);
        if (!$reader instanceof \XMLReader) {
            return false;
        }
        try {
            while ($reader->read()) {
                if (\XMLReader::DOC_TYPE === $reader->nodeType) {
                    return true;
                }
                if (\XMLReader::ELEMENT === $reader->nodeType) {
                    return false;
                }
            }

            return false;
        } finally {
            $reader->close();
        }
    }
}
