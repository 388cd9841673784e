<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Pairing\RowPairer;

/** What two sides of a pair have in common and where they are apart, in words, read from their rows alone. */
final class Why
{
    /**
     * @param array<string, mixed> $pair as PairingResult::pairs gives it
     *
     * @return string such as “same their number, equal amounts, 2 days apart”; no amount is named
     */
    public static function words(PairingSet $set, array $pair): string
    {
        $words = [];
        foreach ($set->sharedNames() as $name) {
            $values = [];
            foreach (['left', 'right'] as $side) {
                foreach ($pair[$side] as $row) {
                    /** @var array<string, string> $own */
                    $own = (array) json_decode((string) $row['fields'], true);
                    $values[RowPairer::spelled($set->fieldsOf($side, $own)[$name] ?? '')] = true;
                }
            }
            if (1 === \count($values) && !isset($values[''])) {
                $words[] = 'same '.$name;
            }
        }
        $words[] = 0 === (int) $pair['difference'] ? 'equal amounts' : 'amounts differ';
        $dates = array_column([...$pair['left'], ...$pair['right']], 'dated');
        if ([] !== $dates) {
            $days = Day::of((string) min($dates))->daysUntil(Day::of((string) max($dates)));
            $words[] = match ($days) {
                0 => 'same day',
                1 => '1 day apart',
                default => $days.' days apart',
            };
        }

        return implode(', ', $words);
    }
}
