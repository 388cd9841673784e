<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Ubl;

use Brick\Math\BigDecimal;
use Nelbix\Core\Money\Money;

/** Writes an invoice or credit note in UBL 2.1 after EN 16931. Source: OASIS UBL 2.1; EN 16931-3-2, the syntax binding. */
final class UblWriter
{
    private const SPACE = 'urn:oasis:names:specification:ubl:schema:xsd:';

    private function __construct(private readonly \XMLWriter $xml, private readonly ElectronicInvoice $invoice)
    {
    }

    public static function write(ElectronicInvoice $invoice): string
    {
        $xml = new \XMLWriter();
        $xml->openMemory();
        $xml->setIndent(true);
        $xml->startDocument('1.0', 'UTF-8');
        (new self($xml, $invoice))->document();

        return $xml->outputMemory();
    }

    private function document(): void
    {
        $i = $this->invoice;
        $root = $i->isCredit ? 'CreditNote' : 'Invoice';
        $this->xml->startElementNs(null, $root, self::SPACE.$root.'-2');
        $this->xml->writeAttribute('xmlns:cac', self::SPACE.'CommonAggregateComponents-2');
        $this->xml->writeAttribute('xmlns:cbc', self::SPACE.'CommonBasicComponents-2');
        $this->basic('CustomizationID', 'urn:cen.eu:en16931:2017');
        $this->basic('ID', $i->number);
        $this->basic('IssueDate', $i->date->iso());
        if (!$i->isCredit) {
            $this->basic('DueDate', $i->due?->iso() ?? '');
        }
        $this->basic($root.'TypeCode', $i->isCredit ? '381' : '380');
        $this->basic('Note', $i->note);
        $this->basic('DocumentCurrencyCode', $i->currency);
        $this->basic('BuyerReference', $i->reference);
        if ('' !== $i->against) {
            $this->in(
                'BillingReference',
                fn () => $this->in('InvoiceDocumentReference', fn () => $this->basic('ID', $i->against)),
            );
        }
        foreach ($i->attachments as $a) {
            $this->in('AdditionalDocumentReference', function () use ($a): void {
                $this->basic('ID', $a['name']);
                $this->in(
                    'Attachment',
                    fn () => $this->basic('EmbeddedDocumentBinaryObject', base64_encode($a['content']), [
                        'mimeCode' => $a['mediaType'],
                        'filename' => $a['name'],
                    ]),
                );
            });
        }
        $this->party('AccountingSupplierParty', $i->seller);
        $this->party('AccountingCustomerParty', $i->buyer);
        $this->in('PaymentMeans', function () use ($i): void {
            $this->basic('PaymentMeansCode', '' === $i->iban ? '1' : '30');
            $this->basic('PaymentID', $i->paymentReference);
            if ('' !== $i->iban) {
                $this->in('PayeeFinancialAccount', fn () => $this->basic('ID', $i->iban));
            }
        });
        if ('' !== $i->terms) {
            $this->in('PaymentTerms', fn () => $this->basic('Note', $i->terms));
        }
        foreach ($i->others as $o) {
            $this->in('AllowanceCharge', function () use ($o): void {
                $this->basic('ChargeIndicator', $o->net > 0 ? 'true' : 'false');
                $this->basic('AllowanceChargeReason', $o->text);
                $this->money('Amount', abs($o->net));
                $this->category('TaxCategory', $o->category, $o->percent);
            });
        }
        $this->in('TaxTotal', function () use ($i): void {
            $this->money('TaxAmount', $i->tax());
            foreach ($i->taxes as $t) {
                $this->in('TaxSubtotal', function () use ($t): void {
                    $this->money('TaxableAmount', $t['taxable']);
                    $this->money('TaxAmount', $t['tax']);
                    $this->category('TaxCategory', $t['category'], $t['percent'], true);
                });
            }
        });
        $this->in('LegalMonetaryTotal', function () use ($i): void {
            $this->money('LineExtensionAmount', $i->lineNet());
            $this->money('TaxExclusiveAmount', $i->net());
            $this->money('TaxInclusiveAmount', $i->total());
            foreach (['AllowanceTotalAmount' => -1, 'ChargeTotalAmount' => 1] as $name => $sign) {
                $sum = array_sum(array_map(static fn (ElectronicLine $o): int => max(0, $sign * $o->net), $i->others));
                if ($sum > 0) {
                    $this->money($name, $sum);
                }
            }
            if (0 !== $i->prepaid) {
                $this->money('PrepaidAmount', $i->prepaid);
            }
            $this->money('PayableAmount', $i->total() - $i->prepaid);
        });
        foreach ($i->lines as $k => $line) {
            $this->in($root.'Line', function () use ($line, $k, $i): void {
                $this->basic('ID', (string) ($k + 1));
                // a price is never negative; what goes the other way has a negative quantity
                $quantity = $line->quantity ?? BigDecimal::of($line->net < 0 ? -1 : 1);
                $this->basic(
                    $i->isCredit ? 'CreditedQuantity' : 'InvoicedQuantity',
                    (string) $quantity->stripTrailingZeros(),
                    ['unitCode' => 'C62'],
                );
                $this->money('LineExtensionAmount', $line->net);
                if (0 !== $line->allowance) {
                    $this->in('AllowanceCharge', function () use ($line): void {
                        $this->basic('ChargeIndicator', $line->allowance < 0 ? 'true' : 'false');
                        $this->basic('AllowanceChargeReason', $line->allowance < 0 ? 'Charge' : 'Allowance');
                        $this->money('Amount', abs($line->allowance));
                    });
                }
                $this->in('Item', function () use ($line): void {
                    $this->basic('Name', '' === $line->text ? 'Goods or services' : $line->text);
                    $this->category('ClassifiedTaxCategory', $line->category, $line->percent);
                });
                $this->in(
                    'Price',
                    fn () => $this->basic(
                        'PriceAmount',
                        null === $line->price
                            ? Money::of(abs($line->net), $i->currency)->decimal()
                            : (string) $line->price->stripTrailingZeros(),
                        ['currencyID' => $i->currency],
                    ),
                );
            });
        }
        $this->xml->endElement();
    }

    private function party(string $name, ElectronicParty $p): void
    {
        $this->in(
            $name,
            fn () => $this->in('Party', function () use ($p): void {
                if ('' !== $p->email) {
                    $this->basic('EndpointID', $p->email, ['schemeID' => 'EM']);
                }
                $this->in('PartyName', fn () => $this->basic('Name', $p->name));
                $this->in('PostalAddress', function () use ($p): void {
                    $this->basic('StreetName', $p->street);
                    $this->basic('CityName', $p->city);
                    $this->in('Country', fn () => $this->basic('IdentificationCode', $p->country));
                });
                if ('' !== $p->taxNumber) {
                    $this->in('PartyTaxScheme', function () use ($p): void {
                        $this->basic('CompanyID', $p->taxNumber);
                        $this->in('TaxScheme', fn () => $this->basic('ID', 'VAT'));
                    });
                }
                $this->in('PartyLegalEntity', fn () => $this->basic('RegistrationName', $p->name));
            }),
        );
    }

    private function category(string $name, string $category, BigDecimal $percent, bool $withReason = false): void
    {
        $this->in($name, function () use ($category, $percent, $withReason): void {
            $this->basic('ID', $category);
            if ('O' !== $category) {
                $this->basic('Percent', (string) $percent->stripTrailingZeros());
            }
            if ($withReason) {
                $this->basic(
                    'TaxExemptionReason',
                    ['E' => 'Exempt from tax', 'AE' => 'Reverse charge', 'O' => 'Not subject to tax'][$category] ?? '',
                );
            }
            $this->in('TaxScheme', fn () => $this->basic('ID', 'VAT'));
        });
    }

    private function money(string $name, int $minor): void
    {
        $this->basic($name, Money::of($minor, $this->invoice->currency)->decimal(), [
            'currencyID' => $this->invoice->currency,
        ]);
    }

    /** @param array<string, string> $attributes */
    private function basic(string $name, string $value, array $attributes = []): void
    {
        if ('' === $value) {
            return;
        }
        $this->xml->startElement('cbc:'.$name);
        foreach ($attributes as $attribute => $text) {
            $this->xml->writeAttribute($attribute, $text);
        }
        $this->xml->text(
            (string) preg_replace(
                '/[^\x{9}\x{A}\x{D}\x{20}-\x{D7FF}\x{E000}-\x{FFFD}\x{10000}-\x{10FFFF}]/u',
                '',
                mb_scrub($value),
            ),
        );
        $this->xml->endElement();
    }

    private function in(string $name, callable $content): void
    {
        $this->xml->startElement('cac:'.$name);
        $content();
        $this->xml->endElement();
    }
}
