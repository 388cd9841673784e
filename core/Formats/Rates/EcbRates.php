<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Rates;

use Brick\Math\BigDecimal;
use Brick\Math\Exception\MathException;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\SafeXml;
use Nelbix\Core\Formats\XmlValues;
use Nelbix\Core\Refused;

/**
 * Euro foreign exchange reference rates in the XML layout of the European Central Bank (eurofxref): a Cube for each day, in it a Cube for
 * each currency with its units for one euro. Source: the bank's published vocabulary eurofxref, 2002-08-01.
 */
final class EcbRates
{
    private const SPACE = 'http://www.ecb.int/vocabulary/2002-08-01/eurofxref';
    private const ENVELOPE = 'http://www.gesmes.org/xml/2002-08-01';
    private const MOST_BYTES = 10_000_000;

    public static function knows(string $bytes): bool
    {
        return str_contains(substr($bytes, 0, 2_000), 'eurofxref');
    }

    /**
     * @return array<string, array<string, BigDecimal>> units for one euro by currency, by ISO day, the oldest first
     *
     * @throws Refused when it is no such file, names a day or a currency twice, or has a rate that is none
     */
    public static function read(string $bytes): array
    {
        $document = SafeXml::load($bytes, self::MOST_BYTES, 'reference rates');
        $xpath = XmlValues::path($document, ['e' => self::SPACE, 'g' => self::ENVELOPE]);
        $days = [];
        foreach ($xpath->query('/g:Envelope/e:Cube/e:Cube[@time]') ?: [] as $cube) {
            \assert($cube instanceof \DOMElement);
            $day = Day::of($cube->getAttribute('time'), 'file')->iso();
            if (isset($days[$day])) {
                throw Refused::because('file', \sprintf('The file has %s twice.', $day));
            }
            $days[$day] = [];
            foreach ($xpath->query('e:Cube[@currency]', $cube) ?: [] as $one) {
                \assert($one instanceof \DOMElement);
                $currency = $one->getAttribute('currency');
                if (1 !== preg_match('/\A[A-Z]{3}\z/', $currency) || isset($days[$day][$currency])) {
                    throw Refused::because(
                        'file',
                        \sprintf(
                            '“%s” of %s is no currency, or is there twice.',
                            mb_strimwidth($currency, 0, 20, '…'),
                            $day,
                        ),
                    );
                }
                $days[$day][$currency] = self::rate($one->getAttribute('rate'), $currency, $day);
            }
        }
        if ([] === $days || [] === array_filter($days)) {
            throw Refused::because('file', 'The file has no reference rates of any day.');
        }
        ksort($days);

        return $days;
    }

    /** @param array<string, BigDecimal> $rates units for one euro by currency */
    public static function write(Day $day, array $rates): string
    {
        $xml = new \XMLWriter();
        $xml->openMemory();
        $xml->setIndent(true);
        $xml->startDocument('1.0', 'UTF-8');
        $xml->startElementNs('gesmes', 'Envelope', self::ENVELOPE);
        $xml->writeAttribute('xmlns', self::SPACE);
        $xml->writeElementNs('gesmes', 'subject', null, 'Reference rates');
        $xml->startElement('Cube');
        $xml->startElement('Cube');
        $xml->writeAttribute('time', $day->iso());
        foreach ($rates as $currency => $rate) {
            $xml->startElement('Cube');
            $xml->writeAttribute('currency', $currency);
            $xml->writeAttribute('rate', (string) $rate);
            $xml->endElement();
        }
        $xml->endDocument();

        return $xml->outputMemory();
    }

    private static function rate(string $text, string $currency, string $day): BigDecimal
    {
        try {
            $rate = 1 === preg_match('/\A\d{1,10}(\.\d{1,10})?\z/', $text) ? BigDecimal::of($text) : null;
        } catch (MathException) {
            $rate = null;
        }
        if (null === $rate || !$rate->isPositive()) {
            throw Refused::because(
                'file',
                \sprintf(
                    'The rate of %s on %s, “%s”, is not a number above zero.',
                    $currency,
                    $day,
                    mb_strimwidth($text, 0, 20, '…'),
                ),
            );
        }

        return $rate;
    }
}
