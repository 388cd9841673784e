<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Ubl;

use Brick\Math\BigDecimal;
use Brick\Math\Exception\MathException;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\SafeXml;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/** Reads an invoice or credit note in UBL 2.1. Source: OASIS UBL 2.1; EN 16931-3-2, the syntax binding. */
final class UblReader
{
    private const CBC = 'urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2';
    private const CAC = 'urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2';
    private const ROOTS = [
        'Invoice' => 'urn:oasis:names:specification:ubl:schema:xsd:Invoice-2',
        'CreditNote' => 'urn:oasis:names:specification:ubl:schema:xsd:CreditNote-2',
    ];
    private const MOST_BYTES = 20_000_000;
    private const MOST_LINES = 500;

    private function __construct(private readonly \DOMXPath $xpath, private readonly Currency $currency)
    {
    }

    /** @throws Refused when it is no such file, holds a document type, or its totals are wrong */
    public static function read(string $xml): ElectronicInvoice
    {
        $document = SafeXml::load($xml, self::MOST_BYTES, 'an electronic invoice');
        $root = $document->documentElement;
        if (null === $root || !\in_array($root->namespaceURI, self::ROOTS, true)) {
            throw Refused::because('file', 'The file is not an electronic invoice in UBL 2.1.');
        }
        $xpath = new \DOMXPath($document);
        $xpath->registerNamespace('b', self::CBC);
        $xpath->registerNamespace('a', self::CAC);

        return (new self(
            $xpath,
            Currency::of(trim((string) $xpath->evaluate('string(/*/b:DocumentCurrencyCode)'))),
        ))->invoice($root);
    }

    private function invoice(\DOMElement $root): ElectronicInvoice
    {
        $credit =
            'CreditNote' === $root->localName
            || \in_array($this->text('b:InvoiceTypeCode', $root), ['381', '396'], true);
        $line = 'CreditNote' === $root->localName ? 'a:CreditNoteLine' : 'a:InvoiceLine';
        $quantity = 'CreditNote' === $root->localName ? 'b:CreditedQuantity' : 'b:InvoicedQuantity';
        $lines = [];
        foreach ($this->nodes($line, $root) as $node) {
            $base = $this->text('a:Price/b:BaseQuantity', $node);
            $price = $this->decimal('a:Price/b:PriceAmount', $node);
            $allowance = 0;
            foreach ($this->nodes('a:AllowanceCharge', $node) as $less) {
                $allowance +=
                    ('true' === $this->text('b:ChargeIndicator', $less) ? -1 : 1) * $this->amount('b:Amount', $less);
            }
            $lines[] = new ElectronicLine(
                $this->text('a:Item/b:Name', $node) ?: $this->text('a:Item/b:Description', $node),
                $this->amount('b:LineExtensionAmount', $node),
                $this->text('a:Item/a:ClassifiedTaxCategory/b:ID', $node) ?: 'O',
                $this->decimal('a:Item/a:ClassifiedTaxCategory/b:Percent', $node) ?? BigDecimal::zero(),
                $this->decimal($quantity, $node),
                '' === $base || '1' === $base ? $price : null,
                $allowance,
            );
        }
        if ([] === $lines || \count($lines) > self::MOST_LINES) {
            throw Refused::because(
                'file',
                [] === $lines
                    ? 'The invoice has no line.'
                    : \sprintf('The invoice has %d lines; at most %d can be taken.', \count($lines), self::MOST_LINES),
            );
        }
        $others = [];
        foreach ($this->nodes('a:AllowanceCharge', $root) as $node) {
            $charge = 'true' === $this->text('b:ChargeIndicator', $node);
            $others[] = new ElectronicLine(
                $this->text('b:AllowanceChargeReason', $node) ?: ($charge ? 'Charge' : 'Allowance'),
                ($charge ? 1 : -1) * $this->amount('b:Amount', $node),
                $this->text('a:TaxCategory/b:ID', $node) ?: 'O',
                $this->decimal('a:TaxCategory/b:Percent', $node) ?? BigDecimal::zero(),
            );
        }
        $taxes = [];
        foreach ($this->nodes('a:TaxTotal/a:TaxSubtotal', $root) as $node) {
            $taxes[] = [
                'category' => $this->text('a:TaxCategory/b:ID', $node),
                'percent' => $this->decimal('a:TaxCategory/b:Percent', $node) ?? BigDecimal::zero(),
                'taxable' => $this->amount('b:TaxableAmount', $node),
                'tax' => $this->amount('b:TaxAmount', $node),
            ];
        }
        $due = $this->text('b:DueDate', $root) ?: $this->text('a:PaymentMeans/b:PaymentDueDate', $root);
        $total = 'a:LegalMonetaryTotal/';
        $invoice = new ElectronicInvoice(
            $this->needed('b:ID', $root, 'number'),
            $credit,
            Day::of($this->needed('b:IssueDate', $root, 'date'), 'file'),
            '' === $due ? null : Day::of($due, 'file'),
            $this->currency->code,
            $this->party('a:AccountingSupplierParty/a:Party', $root),
            $this->party('a:AccountingCustomerParty/a:Party', $root),
            $lines,
            $others,
            $taxes,
            '' === $this->text($total.'b:PrepaidAmount', $root)
                ? 0
                : $this->amount($total.'b:PrepaidAmount', $root),
            $this->text('a:PaymentTerms/b:Note', $root),
            $this->text('b:BuyerReference', $root),
            $this->text('b:Note', $root),
            $this->text('a:PaymentMeans/a:PayeeFinancialAccount/b:ID', $root),
            $this->text('a:PaymentMeans/b:PaymentID', $root),
            $this->text('a:BillingReference/a:InvoiceDocumentReference/b:ID', $root),
            $this->attachments($root),
        );
        $invoice->check([
            'lineNet' => $this->amount($total.'b:LineExtensionAmount', $root),
            'net' => $this->amount($total.'b:TaxExclusiveAmount', $root),
            'total' => $this->amount($total.'b:TaxInclusiveAmount', $root),
            'payable' => $this->amount($total.'b:PayableAmount', $root),
            'rounding' => '' === $this->text($total.'b:PayableRoundingAmount', $root)
                    ? 0
                    : $this->amount($total.'b:PayableRoundingAmount', $root),
        ]);

        return $invoice;
    }

    private function party(string $path, \DOMElement $root): ElectronicParty
    {
        $node =
            $this->nodes($path, $root)[0] ??
            throw Refused::because('file', 'The invoice does not say who sells and who buys.');

        return new ElectronicParty(
            $this->text('a:PartyLegalEntity/b:RegistrationName', $node) ?: $this->text('a:PartyName/b:Name', $node),
            $this->text('a:PartyTaxScheme/b:CompanyID', $node) ?: $this->text('a:PartyLegalEntity/b:CompanyID', $node),
            $this->text('a:PostalAddress/b:StreetName', $node),
            $this->text('a:PostalAddress/b:CityName', $node),
            $this->text('a:PostalAddress/a:Country/b:IdentificationCode', $node),
            $this->text('a:Contact/b:ElectronicMail', $node) ?: $this->text('b:EndpointID[@schemeID="EM"]', $node),
        );
    }

    /** @return list<array{name: string, mediaType: string, content: string}> */
    private function attachments(\DOMElement $root): array
    {
        $attachments = [];
        foreach (
            $this->nodes('a:AdditionalDocumentReference/a:Attachment/b:EmbeddedDocumentBinaryObject', $root) as $node
        ) {
            $content = base64_decode((string) preg_replace('/\s+/', '', $node->textContent), true);
            if (false !== $content && '' !== $content) {
                $attachments[] = [
                    'name' => $node->getAttribute('filename') ?: 'attachment',
                    'mediaType' => $node->getAttribute('mimeCode'),
                    'content' => $content,
                ];
            }
        }

        return $attachments;
    }

    /** @return list<\DOMElement> */
    private function nodes(string $path, \DOMElement $from): array
    {
        $found = [];
        foreach ($this->xpath->query($path, $from) ?: [] as $node) {
            if ($node instanceof \DOMElement) {
                $found[] = $node;
            }
        }

        return $found;
    }

    private function text(string $path, \DOMElement $from): string
    {
        return mb_substr(trim((string) $this->xpath->evaluate('string('.$path.')', $from)), 0, 255);
    }

    private function needed(string $path, \DOMElement $from, string $word): string
    {
        $text = $this->text($path, $from);

        return '' !== $text ? $text : throw Refused::because('file', \sprintf('The invoice has no %s.', $word));
    }

    private function decimal(string $path, \DOMElement $from): ?BigDecimal
    {
        $text = $this->text($path, $from);
        if ('' === $text) {
            return null;
        }
        try {
            return 1 === preg_match('/\A-?\d{1,15}(\.\d{1,10})?\z/', $text)
                ? BigDecimal::of($text)
                : throw Refused::because('file', \sprintf('“%s” is not a number.', mb_strimwidth($text, 0, 30, '…')));
        } catch (MathException) {
            throw Refused::because('file', \sprintf('“%s” is not a number.', mb_strimwidth($text, 0, 30, '…')));
        }
    }

    private function amount(string $path, \DOMElement $from): int
    {
        $text = $this->text($path, $from);
        if (1 === preg_match('/\A(-?\d+)\.(\d*?)0*\z/', $text, $m) && \strlen($m[2]) <= $this->currency->digits) {
            $text = '' === $m[2] ? $m[1] : $m[1].'.'.$m[2];
        }

        return '' === $text
            ? throw Refused::because(
                'file',
                \sprintf('The invoice lacks an amount (%s).', preg_replace('/[ab]:/', '', $path)),
            )
            : Money::parse($text, $this->currency, 'file')->minor;
    }
}
