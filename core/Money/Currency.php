<?php

declare(strict_types=1);

namespace Nelbix\Core\Money;

use Nelbix\Core\Refused;

/** A currency of ISO 4217 with the number of digits of its minor unit. */
final readonly class Currency
{
    /** Minor units other than two, from ISO 4217 list one (from memory). */
    private const DIGITS = [
        'BIF' => 0,
        'CLP' => 0,
        'DJF' => 0,
        'GNF' => 0,
        'ISK' => 0,
        'JPY' => 0,
        'KMF' => 0,
        'KRW' => 0,
        'PYG' => 0,
        'RWF' => 0,
        'UGX' => 0,
        'VND' => 0,
        'VUV' => 0,
        'XAF' => 0,
        'XOF' => 0,
        'XPF' => 0,
        'BHD' => 3,
        'IQD' => 3,
        'JOD' => 3,
        'KWD' => 3,
        'LYD' => 3,
        'OMR' => 3,
        'TND' => 3,
    ];

    private function __construct(public string $code, public int $digits)
    {
    }

    /** @throws Refused when the code is not three capital letters */
    public static function of(string $code): self
    {
        if (1 !== preg_match('/\A[A-Z]{3}\z/', $code)) {
            throw Refused::because(
                'currency',
                \sprintf('“%s” is not a currency code; three capital letters such as USD are.', $code),
            );
        }

        return new self($code, self::DIGITS[$code] ?? 2);
    }

    public function equals(self $other): bool
    {
        return $this->code === $other->code;
    }
}
