<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Ubl\ElectronicInvoice;
use Nelbix\Core\Formats\Ubl\ElectronicLine;
use Nelbix\Core\Formats\Ubl\ElectronicParty;
use Nelbix\Core\Formats\Ubl\UblReader;
use Nelbix\Core\Formats\Ubl\UblWriter;
use Nelbix\Core\Refused;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Electronic invoices in UBL 2.1. Files of another library are read in the application's tests; here what must hold of any. */
final class UblTest extends TestCase
{
    private static function invoice(bool $credit = false): ElectronicInvoice
    {
        $p = BigDecimal::of('20');
        $z = BigDecimal::zero();

        return new ElectronicInvoice(
            'LS-<77>&"',
            $credit,
            Day::of('2026-06-12'),
            $credit ? null : Day::of('2026-07-12'),
            'EUR',
            new ElectronicParty('Strandby "Lak" & Co', 'DK12345678', 'Havnegade 2', 'Strandby', 'DK', 'a@b.example'),
            new ElectronicParty('Tamarack', '', '', 'Alder Point', 'US'),
            [
                new ElectronicLine('Varnish <matt>', 10000, 'S', $p, BigDecimal::of('4'), BigDecimal::of('25')),
                new ElectronicLine('Returned tin', -2500, 'S', $p),
                new ElectronicLine('Book', 1000, 'Z', $z),
            ],
            [new ElectronicLine('Trade discount', -500, 'S', $p), new ElectronicLine('Freight', 300, 'S', $p)],
            [
                ['category' => 'S', 'percent' => $p, 'taxable' => 7300, 'tax' => 1460],
                ['category' => 'Z', 'percent' => $z, 'taxable' => 1000, 'tax' => 0],
            ],
            1000,
            'net 30 days',
            'YARD',
            'for Ada',
            'DK5000400440116243',
            'RF18539007547034',
            $credit ? 'LS-70' : '',
            [['name' => 'x.pdf', 'mediaType' => 'application/pdf', 'content' => "%PDF\x00\xFF"]],
        );
    }

    public function testWhatIsWrittenIsReadAgain(): void
    {
        foreach ([false, true] as $credit) {
            $invoice = self::invoice($credit);
            $read = UblReader::read(UblWriter::write($invoice));
            self::assertEquals(
                [
                    $invoice->number,
                    $invoice->isCredit,
                    $invoice->date,
                    $invoice->due,
                    $invoice->total(),
                    $invoice->seller,
                    $invoice->buyer,
                    $invoice->attachments,
                    $invoice->prepaid,
                    $invoice->terms,
                    $invoice->paymentReference,
                    $invoice->against,
                ],
                [
                    $read->number,
                    $read->isCredit,
                    $read->date,
                    $read->due,
                    $read->total(),
                    $read->seller,
                    new ElectronicParty('Tamarack', '', '', 'Alder Point', 'US'),
                    $read->attachments,
                    $read->prepaid,
                    $read->terms,
                    $read->paymentReference,
                    $read->against,
                ],
            );
            self::assertSame(
                array_map(static fn (ElectronicLine $l): array => [$l->text, $l->net, $l->category], [
                    ...$invoice->lines,
                    ...$invoice->others,
                ]),
                array_map(static fn (ElectronicLine $l): array => [$l->text, $l->net, $l->category], [
                    ...$read->lines,
                    ...$read->others,
                ]),
            );
        }
        // lines 85.00, less 5.00 and plus 3.00, tax 14.60
        self::assertSame(
            [8500, 8300, 9760],
            [self::invoice()->lineNet(), self::invoice()->net(), self::invoice()->total()],
        );
    }

    /** @return iterable<string, array{string, string, string}> what is replaced, by what, what is said */
    public static function wrong(): iterable
    {
        yield 'the sum of lines' => [
            '<cbc:LineExtensionAmount currencyID="EUR">85.00</cbc:LineExtensionAmount>',
            '<cbc:LineExtensionAmount currencyID="EUR">86.00</cbc:LineExtensionAmount>',
            'the sum of the lines is 86.00, but its parts add up to 85.00',
        ];
        yield 'the total' => [
            '<cbc:TaxInclusiveAmount currencyID="EUR">97.60',
            '<cbc:TaxInclusiveAmount currencyID="EUR">97.61',
            'the total with tax is 97.61',
        ];
        yield 'to pay' => [
            '<cbc:PayableAmount currencyID="EUR">87.60',
            '<cbc:PayableAmount currencyID="EUR">97.60',
            'the amount to pay is 97.60, but its parts add up to 87.60',
        ];
        yield 'the tax of a rate' => [
            '<cbc:TaxAmount currencyID="EUR">14.60</cbc:TaxAmount>'."\n   <cac:TaxCategory>",
            '<cbc:TaxAmount currencyID="EUR">15.60</cbc:TaxAmount>'."\n   <cac:TaxCategory>",
            'has 15.60 tax on 73.00 at 20 %, which is 14.60',
        ];
        yield 'the taxed amount' => [
            '<cbc:TaxableAmount currencyID="EUR">73.00',
            '<cbc:TaxableAmount currencyID="EUR">72.00',
            'taxes 72.00 at 20 %, but its lines at that rate add up to 73.00',
        ];
        yield 'an amount that is none' => [
            '<cbc:PayableAmount currencyID="EUR">87.60',
            '<cbc:PayableAmount currencyID="EUR">1e9',
            'is not an amount',
        ];
        yield 'three decimals' => [
            '<cbc:PayableAmount currencyID="EUR">87.60',
            '<cbc:PayableAmount currencyID="EUR">87.601',
            'decimal',
        ];
        yield 'a day that never was' => ['<cbc:IssueDate>2026-06-12', '<cbc:IssueDate>2026-06-31', '2026-06-31'];
        yield 'no number' => ['<cbc:ID>LS-&lt;77&gt;&amp;&quot;</cbc:ID>', '', 'has no number'];
        yield 'a currency that is none' => ['<cbc:DocumentCurrencyCode>EUR', '<cbc:DocumentCurrencyCode>EU', 'EU'];
        yield 'a document type' => [
            '<?xml version="1.0" encoding="UTF-8"?>',
            '<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a "b">]>',
            'declares a document type',
        ];
        yield 'an entity that reads a file' => [
            '<?xml version="1.0" encoding="UTF-8"?>',
            '<?xml version="1.0"?><!DOCTYPE x [<!ENTITY a SYSTEM "file:///etc/passwd">]>',
            'declares a document type',
        ];
        yield 'a billion laughs' => [
            '<?xml version="1.0" encoding="UTF-8"?>',
            '<?xml version="1.0"?><!DocType l [<!ENTITY a "lol"><!ENTITY b "&a;&a;&a;&a;">]>',
            'no well-formed XML',
        ];
        yield 'another document' => ['xsd:Invoice-2"', 'xsd:Order-2"', 'not an electronic invoice'];
        yield 'cut off' => ['</Invoice>', '', 'not an electronic invoice'];
        yield 'no lines' => ['cac:InvoiceLine>', 'cac:Other>', 'has no line'];
    }

    #[DataProvider('wrong')]
    public function testWrongFilesAreRefusedWithTheReason(string $from, string $to, string $said): void
    {
        $xml = UblWriter::write(self::invoice());
        self::assertStringContainsString($from, $xml);
        try {
            UblReader::read(str_replace($from, $to, $xml));
            self::fail('read all the same');
        } catch (Refused $e) {
            self::assertStringContainsString($said, $e->getMessage());
        }
    }

    public function testWhatIsNoXmlIsRefused(): void
    {
        foreach (['', ' ', 'x', '<a/>', "\xFF\xFE<\0!\0D\0O\0C\0T\0Y\0P\0E\0", str_repeat('<a>', 5000)] as $text) {
            try {
                UblReader::read($text);
                self::fail('read all the same');
            } catch (Refused $e) {
                self::assertSame('file', $e->problems[0]->field);
            }
        }
    }
}
