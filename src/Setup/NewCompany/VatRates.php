<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\NewCompany;

/**
 * Value added tax, percent: the standard rate first, then the reduced ones. Only what a new company is offered; its controller checks
 * them. Source: from memory, as of 2026.
 */
final class VatRates
{
    public const OF = [
        'AT' => ['20', '13', '10'],
        'BE' => ['21', '12', '6'],
        'BG' => ['20', '9'],
        'CH' => ['8.1', '3.8', '2.6'],
        'CY' => ['19', '9', '5'],
        'CZ' => ['21', '12'],
        'DE' => ['19', '7'],
        'DK' => ['25'],
        'EE' => ['24', '13', '9'],
        'ES' => ['21', '10', '4'],
        'FI' => ['25.5', '13.5', '10'],
        'FR' => ['20', '10', '5.5'],
        'GB' => ['20', '5'],
        'GR' => ['24', '13', '6'],
        'HR' => ['25', '13', '5'],
        'HU' => ['27', '18', '5'],
        'IE' => ['23', '13.5', '9'],
        'IT' => ['22', '10', '5', '4'],
        'LT' => ['21', '12', '5'],
        'LU' => ['17', '14', '8', '3'],
        'LV' => ['21', '12', '5'],
        'MT' => ['18', '12', '7', '5'],
        'NL' => ['21', '9'],
        'NO' => ['25', '15', '12'],
        'PL' => ['23', '8', '5'],
        'PT' => ['23', '13', '6'],
        'RO' => ['21', '11'],
        'SE' => ['25', '12', '6'],
        'SI' => ['22', '9.5', '5'],
        'SK' => ['23', '19', '5'],
    ];
}
