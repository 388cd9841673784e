<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Payment;

/** The elements of an ISO 20022 message, one after another and one in another. */
final readonly class IsoMessage
{
    private function __construct(private \XMLWriter $xml)
    {
    }

    /**
     * @param string $space the message definition, as urn
     * @param \Closure(self): void $content
     */
    public static function write(string $space, \Closure $content): string
    {
        $xml = new \XMLWriter();
        $xml->openMemory();
        $xml->setIndent(true);
        $xml->startDocument('1.0', 'UTF-8');
        $xml->startElementNs(null, 'Document', $space);
        $content(new self($xml));
        $xml->endElement();
        $xml->endDocument();

        return $xml->outputMemory();
    }

    public function put(string $name, string $value, string $currency = ''): void
    {
        $this->xml->startElement($name);
        if ('' !== $currency) {
            $this->xml->writeAttribute('Ccy', $currency);
        }
        $this->xml->text($value);
        $this->xml->endElement();
    }

    public function in(string $name, \Closure $content): void
    {
        $this->xml->startElement($name);
        $content();
        $this->xml->endElement();
    }

    /** Identifications keep to letters, digits and a few marks, up to 35. */
    public static function id(string $id): string
    {
        return substr((string) preg_replace('/[^A-Za-z0-9+?\/:().,\' -]/', '-', $id), 0, 35);
    }

    public static function text(string $text, int $most): string
    {
        return mb_substr(trim((string) preg_replace('/[^\P{C}]|\s+/u', ' ', mb_scrub($text))), 0, $most);
    }
}
