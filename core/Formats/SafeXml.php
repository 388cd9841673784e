<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats;

use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * The one way in which XML from outside is read: no document type in any encoding, nothing fetched, no entity replaced, a limit of
 * size. A document type is looked for by a parser that reads no further than the first element, never by words in the text, which
 * another encoding hides.
 */
final class SafeXml
{
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
