<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Ubl;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\SafeXml;
use Nelbix\Core\Formats\XmlValues;
use Nelbix\Core\Ledger\DeliveryEntry;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/** Reads a purchase order in UBL 2.1. Source: OASIS UBL 2.1, 4.3 Ordering, document type Order. */
final readonly class UblOrderReader
{
    private const ROOT = 'urn:oasis:names:specification:ubl:schema:xsd:Order-2';
    private const MOST_BYTES = 5_000_000;

    private function __construct(private XmlValues $xml)
    {
    }

    /** @throws Refused when it is no such file, lacks what an order has, or holds a document type */
    public static function read(string $xml): ElectronicOrder
    {
        $document = SafeXml::load($xml, self::MOST_BYTES, 'an electronic order');
        $root = $document->documentElement;
        if (null === $root || self::ROOT !== $root->namespaceURI) {
            throw Refused::because('file', 'The file is not an order in UBL 2.1.');
        }
        $xpath = XmlValues::path($document, UblReader::NAMESPACES);
        $currency = Currency::of(
            trim((string) $xpath->evaluate('string(/*/b:DocumentCurrencyCode)')) ?:
            trim((string) $xpath->evaluate('string((//b:PriceAmount/@currencyID)[1])')),
        );

        return (new self(new XmlValues($xpath, $currency)))->order($root, $currency->code);
    }

    private function order(\DOMElement $root, string $currency): ElectronicOrder
    {
        $xml = $this->xml;
        $seller = 'a:SellerSupplierParty/a:Party/';
        $lines = [];
        foreach ($xml->nodes('a:OrderLine/a:LineItem', $root) as $node) {
            $lines[] = $this->line($node);
        }
        if ([] === $lines) {
            throw Refused::because('file', 'The order has no line.');
        }
        $this->mustAddUp($root, $lines, $currency);

        return new ElectronicOrder(
            $xml->needed('b:ID', $root, 'number', 'order'),
            Day::of($xml->needed('b:IssueDate', $root, 'date', 'order'), 'file'),
            $currency,
            $xml->text($seller.'a:PartyLegalEntity/b:RegistrationName', $root) ?:
            $xml->text($seller.'a:PartyName/b:Name', $root),
            $xml->text($seller.'a:PartyTaxScheme/b:CompanyID', $root) ?:
            $xml->text($seller.'a:PartyLegalEntity/b:CompanyID', $root),
            $xml->text('b:Note', $root),
            $this->day('a:Delivery/a:RequestedDeliveryPeriod/b:EndDate', $root) ??
                $this->day('a:Delivery/b:LatestDeliveryDate', $root),
            $lines,
        );
    }

    /** @return array{text: string, quantity: string, unit: string, price: string, wantedBy: Day|null} */
    private function line(\DOMElement $node): array
    {
        $quantity =
            $this->xml->decimal('b:Quantity', $node) ??
            throw Refused::because('file', 'A line of the order has no quantity.');
        $price =
            $this->xml->decimal('a:Price/b:PriceAmount', $node) ??
            throw Refused::because('file', 'A line of the order has no price.');
        $base = $this->xml->decimal('a:Price/b:BaseQuantity', $node) ?? BigDecimal::one();
        $each = $base->isPositive() ? $price->dividedBy($base, 6, RoundingMode::HALF_UP) : $price;

        return [
            'text' => $this->xml->text('a:Item/b:Name', $node) ?: $this->xml->text('a:Item/b:Description', $node),
            'quantity' => (string) $quantity->stripTrailingZeros(),
            'unit' => $this->xml->text('b:Quantity/@unitCode', $node),
            'price' => (string) $each->stripTrailingZeros(),
            'wantedBy' => $this->day('a:Delivery/a:RequestedDeliveryPeriod/b:EndDate', $node),
        ];
    }

    private function day(string $path, \DOMElement $from): ?Day
    {
        $text = $this->xml->text($path, $from);

        return '' === $text ? null : Day::of($text, 'file');
    }

    /**
     * @param non-empty-list<array{text: string, quantity: string, unit: string, price: string, wantedBy: Day|null}> $lines
     *
     * @throws Refused when the file states a sum of its lines that is another
     */
    private function mustAddUp(\DOMElement $root, array $lines, string $currency): void
    {
        $path = 'a:AnticipatedMonetaryTotal/b:LineExtensionAmount';
        if ('' === $this->xml->text($path, $root)) {
            return;
        }
        $stated = $this->xml->amount($path, $root);
        $sum = 0;
        foreach ($lines as $line) {
            $sum += DeliveryEntry::value(
                BigDecimal::of($line['quantity']),
                BigDecimal::of($line['price']),
                Currency::of($currency),
            );
        }
        if ($sum !== $stated) {
            throw Refused::because(
                'file',
                \sprintf(
                    'The file says the sum of the lines is %s, but they add up to %s; ask the sender for a right one.',
                    Money::of($stated, $currency)->decimal(),
                    Money::of($sum, $currency)->decimal(),
                ),
            );
        }
    }
}
