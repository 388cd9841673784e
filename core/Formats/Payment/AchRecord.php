<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Payment;

use Nelbix\Core\Refused;

/** A line of 94 characters and what stands in it: numbers with leading zeros, text in capitals with spaces after it. */
final class AchRecord
{
    private const WIDTH = 94;

    /** A line of nines, which fills the file up to whole blocks. */
    public static function filler(): string
    {
        return str_repeat('9', self::WIDTH);
    }

    /** @throws \LogicException when the fields do not come to a line */
    public static function of(string ...$fields): string
    {
        $record = implode('', $fields);

        return self::WIDTH === \strlen($record)
            ? $record
            : throw new \LogicException('A record of '.\strlen($record).' characters: '.$record);
    }

    public static function text(string $text, int $width): string
    {
        return str_pad(substr(strtoupper(self::ascii($text)), 0, $width), $width);
    }

    /** @throws Refused when it does not fit */
    public static function number(int $number, int $width): string
    {
        $digits = str_pad((string) $number, $width, '0', \STR_PAD_LEFT);

        return \strlen($digits) > $width
            ? throw Refused::because(
                'format',
                \sprintf('%d does not fit into the %d places that ACH has for it; make two files.', $number, $width),
            )
            : $digits;
    }

    /** Letters that the layout does not know become their nearest, the rest a space. */
    public static function ascii(string $text): string
    {
        $plain = transliterator_transliterate('Any-Latin; Latin-ASCII', $text);

        return (string) preg_replace('/[^\x20-\x7E]/', ' ', false === $plain ? $text : $plain);
    }
}
