<?php

declare(strict_types=1);

namespace Nelbix\Core\Money;

use Nelbix\Core\ProblemKind;
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
        'CLF' => 4,
    ];

    /** Codes of ISO 4217 in use for payments, from memory; a test compares them with ICU's. */
    private const CODES =
        'AED AFN ALL AMD ANG AOA ARS AUD AWG AZN BAM BBD BDT BGN BHD BIF BMD BND BOB BRL BSD BTN BWP BYN BZD CAD CDF CHF CLF CLP '.
        'CNY COP CRC CUP CVE CZK DJF DKK DOP DZD EGP ERN ETB EUR FJD FKP GBP GEL GHS GIP GMD GNF GTQ GYD HKD HNL HTG HUF IDR ILS '.
        'INR IQD IRR ISK JMD JOD JPY KES KGS KHR KMF KPW KRW KWD KYD KZT LAK LBP LKR LRD LSL LYD MAD MDL MGA MKD MMK MNT MOP MRU '.
        'MUR MVR MWK MXN MYR MZN NAD NGN NIO NOK NPR NZD OMR PAB PEN PGK PHP PKR PLN PYG QAR RON RSD RUB RWF SAR SBD SCR SDG SEK '.
        'SGD SHP SLE SOS SRD SSP STN SVC SYP SZL THB TJS TMT TND TOP TRY TTD TWD TZS UAH UGX USD UYU UZS VED VES VND VUV WST XAF '.
        'XCD XOF XPF YER ZAR ZMW ZWG';

    /** Signs as they are written where the currency is at home, from memory; none where people write the code. */
    private const SIGNS = [
        'USD' => '$',
        'CAD' => '$',
        'AUD' => '$',
        'NZD' => '$',
        'MXN' => '$',
        'SGD' => '$',
        'HKD' => '$',
        'EUR' => '€',
        'GBP' => '£',
        'JPY' => '¥',
        'CNY' => '¥',
        'INR' => '₹',
        'KRW' => '₩',
        'ILS' => '₪',
        'UAH' => '₴',
        'VND' => '₫',
        'PHP' => '₱',
        'NGN' => '₦',
        'TRY' => '₺',
    ];

    private function __construct(public string $code, public int $digits)
    {
    }

    /** What may stand beside an amount in place of the code; '' for none. */
    public function sign(): string
    {
        return self::SIGNS[$this->code] ?? '';
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

        if (!self::isKnown($code)) {
            throw Refused::because(
                'currency',
                \sprintf('There is no currency %s; give a code of ISO 4217 such as USD.', $code),
                ProblemKind::Unknown,
            );
        }

        return new self($code, self::DIGITS[$code] ?? 2);
    }

    public static function isKnown(string $code): bool
    {
        return \in_array($code, explode(' ', self::CODES), true);
    }

    public function equals(self $other): bool
    {
        return $this->code === $other->code;
    }
}
