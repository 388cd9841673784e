<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\NewCompany;

/** The countries of ISO 3166 with what is usual in them. Source: ICU, for names and currencies; the tz database, for zones. */
final class Countries
{
    /** @return array<string, string> English names by their two letters, in the order of the names */
    public static function names(): array
    {
        static $names = [];
        if ([] === $names) {
            foreach (range('A', 'Z') as $a) {
                foreach (range('A', 'Z') as $b) {
                    $name = (string) \Locale::getDisplayRegion('-'.$a.$b, 'en');
                    if ($a.$b !== $name && [] !== self::zones($a.$b)) {
                        $names[$a.$b] = $name;
                    }
                }
            }
            asort($names);
        }

        return $names;
    }

    /** @return list<string> identifiers, the likeliest first; none for what is no country */
    public static function zones(string $country): array
    {
        $zones = \DateTimeZone::listIdentifiers(\DateTimeZone::PER_COUNTRY, $country);
        $first = ['US' => 'America/New_York', 'CA' => 'America/Toronto', 'PT' => 'Europe/Lisbon'][$country] ?? null;

        return null === $first ? $zones : [$first, ...array_values(array_diff($zones, [$first]))];
    }

    /** Three letters. */
    public static function currency(string $country): string
    {
        return (new \NumberFormatter('en_'.$country, \NumberFormatter::CURRENCY))->getTextAttribute(
            \NumberFormatter::CURRENCY_CODE,
        ) ?:
            'USD';
    }
}
