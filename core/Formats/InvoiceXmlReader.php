<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats;

use Nelbix\Core\Formats\Cii\CiiReader;
use Nelbix\Core\Formats\Ubl\ElectronicInvoice;
use Nelbix\Core\Formats\Ubl\UblReader;
use Nelbix\Core\Refused;

/** Reads an electronic invoice in either syntax of EN 16931. */
final class InvoiceXmlReader
{
    /** @throws Refused when it is neither, holds a document type, or its totals are wrong */
    public static function read(string $xml): ElectronicInvoice
    {
        $document = SafeXml::load($xml, UblReader::MOST_BYTES, 'an electronic invoice');

        return CiiReader::ROOT === $document->documentElement?->namespaceURI
            ? CiiReader::of($document)
            : UblReader::of($document);
    }
}
