<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats;

use Nelbix\Core\Refused;

/**
 * Units of measure by their common code. Source: UN/ECE recommendation 20, codes for units of measure used in international trade; the
 * packages among them from recommendation 21, with X before them, as EN 16931 has it. The words are those of the recommendation.
 */
final class UnitCode
{
    /** Those that a yard or a shop is offered; any other code of the recommendation may be typed. */
    public const OFFERED = [
        'C62' => 'one',
        'H87' => 'piece',
        'EA' => 'each',
        'PR' => 'pair',
        'SET' => 'set',
        'DZN' => 'dozen',
        'MTR' => 'metre',
        'CMT' => 'centimetre',
        'MMT' => 'millimetre',
        'FOT' => 'foot',
        'INH' => 'inch',
        'MTK' => 'square metre',
        'FTK' => 'square foot',
        'MTQ' => 'cubic metre',
        'FTQ' => 'cubic foot',
        'LTR' => 'litre',
        'GLL' => 'gallon (US)',
        'KGM' => 'kilogram',
        'GRM' => 'gram',
        'TNE' => 'tonne',
        'LBR' => 'pound',
        'HUR' => 'hour',
        'DAY' => 'day',
        'WEE' => 'week',
        'MON' => 'month',
        'ANN' => 'year',
        'KWH' => 'kilowatt hour',
        'XBX' => 'box',
        'XRO' => 'roll',
        'XDR' => 'drum',
    ];

    /**
     * @param string $typed a code in any case, or the word of one that is offered; empty is one
     *
     * @throws Refused naming the field
     */
    public static function read(string $typed, string $field): string
    {
        $typed = trim($typed);
        $byWord = array_search(mb_strtolower($typed), self::OFFERED, true);
        $code = false !== $byWord ? $byWord : strtoupper($typed);

        return match (true) {
            '' === $typed => 'C62',
            isset(self::OFFERED[$code]), 1 === preg_match('/\A[A-Z0-9]{2,3}\z/', $code) => (string) $code,
            default => throw Refused::because(
                $field,
                \sprintf(
                    '“%s” is not a code of a unit, such as C62 for one, KGM for kilogram or HUR for hour.',
                    mb_strimwidth($typed, 0, 20, '…'),
                ),
            ),
        };
    }

    /** The word for a code; the code itself when it is none of those offered. */
    public static function word(string $code): string
    {
        return 'C62' === $code || '' === $code ? '' : self::OFFERED[$code] ?? $code;
    }
}
