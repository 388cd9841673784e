<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Cii;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Ubl\ElectronicInvoice;
use Nelbix\Core\Formats\Ubl\ElectronicLine;
use Nelbix\Core\Formats\Ubl\ElectronicParty;
use Nelbix\Core\Formats\XmlValues;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Refused;

/**
 * Reads an invoice or credit note in UN/CEFACT Cross Industry Invoice, the other syntax of EN 16931. Source: EN 16931-3-3, the syntax
 * binding to CII D16B.
 */
final readonly class CiiReader
{
    public const ROOT = 'urn:un:unece:uncefact:data:standard:CrossIndustryInvoice:100';

    private const NAMESPACES = [
        'r' => self::ROOT,
        'm' => 'urn:un:unece:uncefact:data:standard:ReusableAggregateBusinessInformationEntity:100',
        'u' => 'urn:un:unece:uncefact:data:standard:UnqualifiedDataType:100',
    ];

    private const TRADE = 'r:SupplyChainTradeTransaction/';
    private const AGREED = self::TRADE.'m:ApplicableHeaderTradeAgreement/';
    private const SETTLED = self::TRADE.'m:ApplicableHeaderTradeSettlement/';
    private const SUMS = self::SETTLED.'m:SpecifiedTradeSettlementHeaderMonetarySummation/';

    private function __construct(private XmlValues $xml, private Currency $currency)
    {
    }

    /** @throws Refused when it lacks what an invoice has, or its totals are wrong */
    public static function of(\DOMDocument $document): ElectronicInvoice
    {
        $root = $document->documentElement;
        if (null === $root || self::ROOT !== $root->namespaceURI) {
            throw Refused::because('file', 'The file is not an electronic invoice in CII.');
        }
        $xpath = XmlValues::path($document, self::NAMESPACES);
        $currency = Currency::of(
            trim((string) $xpath->evaluate('string(/*/'.self::SETTLED.'m:InvoiceCurrencyCode)')),
        );

        return (new self(new XmlValues($xpath, $currency), $currency))->invoice($root);
    }

    private function invoice(\DOMElement $root): ElectronicInvoice
    {
        $xml = $this->xml;
        $due = $this->day(self::SETTLED.'m:SpecifiedTradePaymentTerms/m:DueDateDateTime/u:DateTimeString', $root);
        $invoice = new ElectronicInvoice(
            $xml->needed('r:ExchangedDocument/m:ID', $root, 'number'),
            \in_array($xml->text('r:ExchangedDocument/m:TypeCode', $root), ['381', '396'], true),
            $this->day('r:ExchangedDocument/m:IssueDateTime/u:DateTimeString', $root) ??
                throw Refused::because('file', 'The invoice has no date.'),
            $due,
            $this->currency->code,
            $this->party(self::AGREED.'m:SellerTradeParty', $root),
            $this->party(self::AGREED.'m:BuyerTradeParty', $root),
            $this->lines($root),
            $this->others($root),
            $this->taxes($root),
            $xml->amountOrNone(self::SUMS.'m:TotalPrepaidAmount', $root),
            $xml->text(self::SETTLED.'m:SpecifiedTradePaymentTerms/m:Description', $root),
            $xml->text(self::AGREED.'m:BuyerReference', $root),
            $xml->text('r:ExchangedDocument/m:IncludedNote/m:Content', $root),
            $xml->text(
                self::SETTLED.'m:SpecifiedTradeSettlementPaymentMeans/m:PayeePartyCreditorFinancialAccount/m:IBANID',
                $root,
            ),
            $xml->text(self::SETTLED.'m:PaymentReference', $root),
            $xml->text(self::SETTLED.'m:InvoiceReferencedDocument/m:IssuerAssignedID', $root),
            $this->xml->embedded(self::AGREED.'m:AdditionalReferencedDocument/m:AttachmentBinaryObject', $root),
            $xml->text(self::AGREED.'m:BuyerOrderReferencedDocument/m:IssuerAssignedID', $root),
            $xml->text(
                self::TRADE.'m:ApplicableHeaderTradeDelivery/m:DespatchAdviceReferencedDocument/m:IssuerAssignedID',
                $root,
            ),
        );
        $invoice->check([
            'lineNet' => $xml->amount(self::SUMS.'m:LineTotalAmount', $root),
            'net' => $xml->amount(self::SUMS.'m:TaxBasisTotalAmount', $root),
            'total' => $xml->amount(self::SUMS.'m:GrandTotalAmount', $root),
            'payable' => $xml->amount(self::SUMS.'m:DuePayableAmount', $root),
            'rounding' => $xml->amountOrNone(self::SUMS.'m:RoundingAmount', $root),
        ]);

        return $invoice;
    }

    /** @return list<ElectronicLine> */
    private function lines(\DOMElement $root): array
    {
        $lines = [];
        $price = 'm:SpecifiedLineTradeAgreement/m:NetPriceProductTradePrice/';
        $settled = 'm:SpecifiedLineTradeSettlement/';
        foreach ($this->xml->nodes(self::TRADE.'m:IncludedSupplyChainTradeLineItem', $root) as $node) {
            $base = $this->xml->decimal($price.'m:BasisQuantity', $node);
            $allowance = 0;
            foreach ($this->xml->nodes($settled.'m:SpecifiedTradeAllowanceCharge', $node) as $less) {
                $allowance += ($this->isCharge($less) ? -1 : 1) * $this->xml->amount('m:ActualAmount', $less);
            }
            $lines[] = new ElectronicLine(
                $this->xml->text('m:SpecifiedTradeProduct/m:Name', $node) ?:
                $this->xml->text('m:SpecifiedTradeProduct/m:Description', $node),
                $this->xml->amount(
                    $settled.'m:SpecifiedTradeSettlementLineMonetarySummation/m:LineTotalAmount',
                    $node,
                ),
                $this->xml->text($settled.'m:ApplicableTradeTax/m:CategoryCode', $node) ?: 'O',
                $this->xml->decimal($settled.'m:ApplicableTradeTax/m:RateApplicablePercent', $node) ??
                    BigDecimal::zero(),
                $this->xml->decimal('m:SpecifiedLineTradeDelivery/m:BilledQuantity', $node),
                null === $base || $base->isEqualTo(1) ? $this->xml->decimal($price.'m:ChargeAmount', $node) : null,
                $allowance,
                $this->xml->text('m:SpecifiedLineTradeAgreement/m:BuyerOrderReferencedDocument/m:LineID', $node),
            );
        }

        return $lines;
    }

    /** @return list<ElectronicLine> allowances and charges on the whole */
    private function others(\DOMElement $root): array
    {
        $others = [];
        foreach ($this->xml->nodes(self::SETTLED.'m:SpecifiedTradeAllowanceCharge', $root) as $node) {
            $charge = $this->isCharge($node);
            $others[] = new ElectronicLine(
                $this->xml->text('m:Reason', $node) ?: ($charge ? 'Charge' : 'Allowance'),
                ($charge ? 1 : -1) * $this->xml->amount('m:ActualAmount', $node),
                $this->xml->text('m:CategoryTradeTax/m:CategoryCode', $node) ?: 'O',
                $this->xml->decimal('m:CategoryTradeTax/m:RateApplicablePercent', $node) ?? BigDecimal::zero(),
            );
        }

        return $others;
    }

    private function isCharge(\DOMElement $node): bool
    {
        return \in_array($this->xml->text('m:ChargeIndicator/u:Indicator', $node), ['true', '1'], true);
    }

    /** @return list<array{category: string, percent: BigDecimal, taxable: int, tax: int}> */
    private function taxes(\DOMElement $root): array
    {
        $taxes = [];
        foreach ($this->xml->nodes(self::SETTLED.'m:ApplicableTradeTax', $root) as $node) {
            $taxes[] = [
                'category' => $this->xml->text('m:CategoryCode', $node),
                'percent' => $this->xml->decimal('m:RateApplicablePercent', $node) ?? BigDecimal::zero(),
                'taxable' => $this->xml->amount('m:BasisAmount', $node),
                'tax' => $this->xml->amount('m:CalculatedAmount', $node),
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
            $this->xml->text('m:Name', $node),
            $this->xml->text('m:SpecifiedTaxRegistration/m:ID[@schemeID="VA"]', $node) ?:
            $this->xml->text('m:SpecifiedTaxRegistration/m:ID', $node) ?:
            $this->xml->text('m:SpecifiedLegalOrganization/m:ID', $node),
            $this->xml->text('m:PostalTradeAddress/m:LineOne', $node),
            $this->xml->text('m:PostalTradeAddress/m:CityName', $node),
            $this->xml->text('m:PostalTradeAddress/m:CountryID', $node),
            $this->xml->text('m:DefinedTradeContact/m:EmailURIUniversalCommunication/m:URIID', $node) ?:
            $this->xml->text('m:URIUniversalCommunication/m:URIID[@schemeID="EM"]', $node),
        );
    }

    /** Days stand as 20260610 (format 102). @throws Refused for another format */
    private function day(string $path, \DOMElement $root): ?Day
    {
        $text = $this->xml->text($path, $root);
        if ('' === $text) {
            return null;
        }

        return 1 === preg_match('/\A(\d{4})(\d{2})(\d{2})\z/', $text, $m)
            ? Day::of("$m[1]-$m[2]-$m[3]", 'file')
            : throw Refused::because('file', \sprintf('“%s” is not a date such as 20260610.', mb_substr($text, 0, 30)));
    }
}
