<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Ubl;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\SafeXml;
use Nelbix\Core\Formats\XmlValues;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Refused;

/** Reads an invoice or credit note in UBL 2.1. Source: OASIS UBL 2.1; EN 16931-3-2, the syntax binding. */
final class UblReader
{
    public const NAMESPACES = [
        'b' => 'urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2',
        'a' => 'urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2',
    ];
    private const ROOTS = [
        'Invoice' => 'urn:oasis:names:specification:ubl:schema:xsd:Invoice-2',
        'CreditNote' => 'urn:oasis:names:specification:ubl:schema:xsd:CreditNote-2',
    ];
    public const MOST_BYTES = 20_000_000;

    private function __construct(private readonly XmlValues $xml, private readonly Currency $currency)
    {
    }

    /** @throws Refused when it is no such file, holds a document type, or its totals are wrong */
    public static function read(string $xml): ElectronicInvoice
    {
        return self::of(SafeXml::load($xml, self::MOST_BYTES, 'an electronic invoice'));
    }

    /** @throws Refused when it is no such document, or its totals are wrong */
    public static function of(\DOMDocument $document): ElectronicInvoice
    {
        $root = $document->documentElement;
        if (null === $root || !\in_array($root->namespaceURI, self::ROOTS, true)) {
            throw Refused::because('file', 'The file is not an electronic invoice in UBL 2.1 or CII.');
        }
        $xpath = XmlValues::path($document, self::NAMESPACES);
        $currency = Currency::of(trim((string) $xpath->evaluate('string(/*/b:DocumentCurrencyCode)')));

        return (new self(new XmlValues($xpath, $currency), $currency))->invoice($root);
    }

    private function invoice(\DOMElement $root): ElectronicInvoice
    {
        $credit =
            'CreditNote' === $root->localName
            || \in_array($this->xml->text('b:InvoiceTypeCode', $root), ['381', '396'], true);
        $line = 'CreditNote' === $root->localName ? 'a:CreditNoteLine' : 'a:InvoiceLine';
        $quantity = 'CreditNote' === $root->localName ? 'b:CreditedQuantity' : 'b:InvoicedQuantity';
        $lines = $this->lines($line, $quantity, $root);
        $due = $this->xml->text('b:DueDate', $root) ?: $this->xml->text('a:PaymentMeans/b:PaymentDueDate', $root);
        $total = 'a:LegalMonetaryTotal/';
        $invoice = new ElectronicInvoice(
            $this->xml->needed('b:ID', $root, 'number'),
            $credit,
            Day::of($this->xml->needed('b:IssueDate', $root, 'date'), 'file'),
            '' === $due ? null : Day::of($due, 'file'),
            $this->currency->code,
            $this->party('a:AccountingSupplierParty/a:Party', $root),
            $this->party('a:AccountingCustomerParty/a:Party', $root),
            $lines,
            $this->others($root),
            $this->taxes($root),
            $this->xml->amountOrNone($total.'b:PrepaidAmount', $root),
            $this->xml->text('a:PaymentTerms/b:Note', $root),
            $this->xml->text('b:BuyerReference', $root),
            $this->xml->text('b:Note', $root),
            $this->xml->text('a:PaymentMeans/a:PayeeFinancialAccount/b:ID', $root),
            $this->xml->text('a:PaymentMeans/b:PaymentID', $root),
            $this->xml->text('a:BillingReference/a:InvoiceDocumentReference/b:ID', $root),
            $this->xml->embedded('a:AdditionalDocumentReference/a:Attachment/b:EmbeddedDocumentBinaryObject', $root),
            $this->xml->text('a:OrderReference/b:ID', $root),
            $this->xml->text('a:DespatchDocumentReference/b:ID', $root),
        );
        $invoice->check([
            'lineNet' => $this->xml->amount($total.'b:LineExtensionAmount', $root),
            'net' => $this->xml->amount($total.'b:TaxExclusiveAmount', $root),
            'total' => $this->xml->amount($total.'b:TaxInclusiveAmount', $root),
            'payable' => $this->xml->amount($total.'b:PayableAmount', $root),
            'rounding' => $this->xml->amountOrNone($total.'b:PayableRoundingAmount', $root),
        ]);

        return $invoice;
    }

    /** @return list<ElectronicLine> */
    private function lines(string $line, string $quantity, \DOMElement $root): array
    {
        $lines = [];
        foreach ($this->xml->nodes($line, $root) as $node) {
            $base = $this->xml->decimal('a:Price/b:BaseQuantity', $node);
            $price = $this->xml->decimal('a:Price/b:PriceAmount', $node);
            $allowance = 0;
            foreach ($this->xml->nodes('a:AllowanceCharge', $node) as $less) {
                $allowance +=
                    ('true' === $this->xml->text('b:ChargeIndicator', $less) ? -1 : 1) *
                    $this->xml->amount('b:Amount', $less);
            }
            $lines[] = new ElectronicLine(
                $this->xml->text('a:Item/b:Name', $node) ?: $this->xml->text('a:Item/b:Description', $node),
                $this->xml->amount('b:LineExtensionAmount', $node),
                $this->xml->text('a:Item/a:ClassifiedTaxCategory/b:ID', $node) ?: 'O',
                $this->xml->decimal('a:Item/a:ClassifiedTaxCategory/b:Percent', $node) ?? BigDecimal::zero(),
                $this->xml->decimal($quantity, $node),
                null === $base || $base->isEqualTo(1) ? $price : null,
                $allowance,
                $this->xml->text('a:OrderLineReference/b:LineID', $node),
            );
        }

        return $lines;
    }

    /** @return list<ElectronicLine> allowances and charges on the whole */
    private function others(\DOMElement $root): array
    {
        $others = [];
        foreach ($this->xml->nodes('a:AllowanceCharge', $root) as $node) {
            $charge = 'true' === $this->xml->text('b:ChargeIndicator', $node);
            $others[] = new ElectronicLine(
                $this->xml->text('b:AllowanceChargeReason', $node) ?: ($charge ? 'Charge' : 'Allowance'),
                ($charge ? 1 : -1) * $this->xml->amount('b:Amount', $node),
                $this->xml->text('a:TaxCategory/b:ID', $node) ?: 'O',
                $this->xml->decimal('a:TaxCategory/b:Percent', $node) ?? BigDecimal::zero(),
            );
        }

        return $others;
    }

    /** @return list<array{category: string, percent: BigDecimal, taxable: int, tax: int}> */
    private function taxes(\DOMElement $root): array
    {
        $taxes = [];
        foreach ($this->xml->nodes('a:TaxTotal/a:TaxSubtotal', $root) as $node) {
            $taxes[] = [
                'category' => $this->xml->text('a:TaxCategory/b:ID', $node),
                'percent' => $this->xml->decimal('a:TaxCategory/b:Percent', $node) ?? BigDecimal::zero(),
                'taxable' => $this->xml->amount('b:TaxableAmount', $node),
                'tax' => $this->xml->amount('b:TaxAmount', $node),
            ];
        }

        return $taxes;
    }

    private function party(string $path, \DOMElement $root): ElectronicParty
    {
        $node =
            $this->xml->nodes($path, $root)[0] ??
            throw Refused::because('file', 'The invoice does not say who sells and who buys.');

        return new ElectronicParty(
            $this->xml->text('a:PartyLegalEntity/b:RegistrationName', $node) ?:
            $this->xml->text('a:PartyName/b:Name', $node),
            $this->xml->text('a:PartyTaxScheme/b:CompanyID', $node) ?:
            $this->xml->text('a:PartyLegalEntity/b:CompanyID', $node),
            $this->xml->text('a:PostalAddress/b:StreetName', $node),
            $this->xml->text('a:PostalAddress/b:CityName', $node),
            $this->xml->text('a:PostalAddress/a:Country/b:IdentificationCode', $node),
            $this->xml->text('a:Contact/b:ElectronicMail', $node) ?:
            $this->xml->text('b:EndpointID[@schemeID="EM"]', $node),
        );
    }
}
