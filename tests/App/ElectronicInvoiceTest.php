<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Invoices\InvoiceXml;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Formats\InvoiceXmlReader;
use Nelbix\Core\Formats\Ubl\UblReader;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\HttpFoundation\File\UploadedFile;

/** Electronic invoices against a library that is not ours: its files are read, and ours are good enough for it. */
final class ElectronicInvoiceTest extends AppCase
{
    use OtherLibrary;

    public function testAFileOfAnotherLibraryBecomesADraftAndPosts(): void
    {
        $browser = self::createClientHere();
        $this->db()->executeStatement(
            <<<SQL
            UPDATE party
            SET tax_number = 'TN-100 200', default_account_id = (SELECT id FROM account WHERE company_id = ? AND number = '5000')
            WHERE code = 'V-1'
            SQL
            ,
            [$this->clerk->companyId],
        );
        $xml = self::library(self::theirs('TN100200'));
        // a PDF inside, as vendors send it
        $pdf = new \Dompdf\Dompdf();
        $pdf->loadHtml('Invoice LS-77');
        $pdf->render();
        $reference =
            '<cac:AdditionalDocumentReference><cbc:ID>x</cbc:ID><cac:Attachment>'.
            '<cbc:EmbeddedDocumentBinaryObject mimeCode="application/pdf" filename="LS-77.pdf">'.
            base64_encode((string) $pdf->output()).
            '</cbc:EmbeddedDocumentBinaryObject></cac:Attachment></cac:AdditionalDocumentReference>';
        // and one that is none beside it, which takes nothing away from the good one
        $reference .=
            '<cac:AdditionalDocumentReference><cbc:ID>y</cbc:ID><cac:Attachment>'.
            '<cbc:EmbeddedDocumentBinaryObject mimeCode="application/pdf" filename="bad.pdf">'.
            base64_encode('not a paper at all').
            '</cbc:EmbeddedDocumentBinaryObject></cac:Attachment></cac:AdditionalDocumentReference>';
        $xml = str_replace('<cac:AccountingSupplierParty>', $reference.'<cac:AccountingSupplierParty>', $xml);
        $upload = static function (string $content): UploadedFile {
            $path = (string) tempnam(sys_get_temp_dir(), 'ubl');
            file_put_contents($path, $content);

            return new UploadedFile($path, 'invoice.xml', 'text/xml', null, true);
        };
        $token = $browser->request('GET', '/TEST/import')->filter('input[name=_token]')->last()->attr('value');
        $browser->request(
            'POST',
            '/TEST/import/check',
            ['_token' => $token, 'kind' => 'electronic-invoice'],
            ['file' => $upload($xml)],
        );
        $draft = $browser->followRedirect();
        self::assertStringContainsString('is read into this draft', $draft->filter('.said-done')->text());
        $value = static fn (string $name): string => (string) $draft
            ->filter('input[name="'.$name.'"]')
            ->attr('value');
        self::assertSame(
            [
                'V-1',
                'LS-77',
                '10 Jun 2026',
                '15 Jul 2026',
                '833.76',
                '42.5 × 18.4',
                'P8',
                'White oak',
                '10.00',
                'Trade discount',
            ],
            array_map($value, [
                'party',
                'number',
                'document_date',
                'due_date',
                'stated_total',
                'lines[0][amount]',
                'lines[0][tax_code]',
                'lines[0][text]',
                'lines[1][amount]',
                'lines[1][text]',
            ]),
        );
        self::assertSame('allowance', $draft->filter('select[name="lines[1][kind]"] option[selected]')->attr('value'));
        self::assertCount(1, $draft->filter('figure.sheet'), 'what was attached lies beside it');
        $form = $draft->filter('#invoice')->form();
        $browser->request('POST', '/TEST/payables/invoice', [...$form->getPhpValues(), '_action' => 'post']);
        self::assertStringContainsString(
            'Payables rose by 833.76',
            $browser->followRedirect()->filter('.said-done')->text(),
        );
        self::assertSame(
            [-83376, 6176, 77200],
            [$this->balance('2100'), $this->balance('1300'), $this->balance('5000')],
        );

        foreach (
            [
                self::library(self::theirs('TN-999')) => 'No vendor has the tax number TN-999',
                str_replace('833.76', '900.00', $xml) => 'its parts add up to 833.76',
                '<?xml version="1.0"?><!DOCTYPE a [<!ENTITY b SYSTEM "file:///etc/passwd">]><a>&b;</a>' => 'declares a document type',
                "code,name\n" => 'not an electronic invoice',
            ] as $content => $said
        ) {
            $refused = $browser->request(
                'POST',
                '/TEST/import/check',
                ['_token' => $token, 'kind' => 'electronic-invoice'],
                ['file' => $upload((string) $content)],
            );
            self::assertStringContainsString($said, $refused->filter('.said-refused')->text());
        }
        self::assertSame(0, (int) $this->db()->fetchOne("SELECT COUNT(*) FROM document WHERE state = 'draft'"));
    }

    public function testBothSyntaxesSayTheSame(): void
    {
        $ubl = self::theirs('TN100200');
        $ubl['ubl:Invoice']['cac:OrderReference'] = ['cbc:ID' => 'PO-26-00001'];
        $ubl['ubl:Invoice']['cac:DespatchDocumentReference'] = ['cbc:ID' => 'N-5'];
        $ubl['ubl:Invoice']['cac:InvoiceLine'][0]['cac:OrderLineReference'] = ['cbc:LineID' => '1'];
        $read = InvoiceXmlReader::read(self::library($ubl));
        self::assertSame(
            ['PO-26-00001', 'N-5', '1', 83376],
            [$read->order, $read->deliveryNote, $read->lines[0]->orderLine, $read->total()],
        );
        // the library leaves the delivery out of this syntax
        $cii = str_replace(
            '<ram:ApplicableHeaderTradeSettlement>',
            '<ram:ApplicableHeaderTradeDelivery><ram:DespatchAdviceReferencedDocument><ram:IssuerAssignedID>N-5</ram:IssuerAssignedID>'.
                '</ram:DespatchAdviceReferencedDocument></ram:ApplicableHeaderTradeDelivery><ram:ApplicableHeaderTradeSettlement>',
            self::library($ubl, 'CII'),
        );
        self::assertEquals($read, InvoiceXmlReader::read($cii));
    }

    public function testOurFilesPassTheSchemaOfAnotherLibraryAndReadTheSame(): void
    {
        $company =
            self::get(EntityManagerInterface::class)->find(Company::class, $this->clerk->companyId) ?? self::fail();
        $this->db()->executeStatement(
            "UPDATE party SET country = 'US', city = 'Alder Point', email = 'a@b.example' WHERE code = 'C-1'",
        );
        $id = $this->invoice(Side::Receivables, '0', [
            'terms' => '2-10-N30',
            'description' => 'Refit <Ada> & co',
            'lines' => [
                ['account' => '4000', 'amount' => '1000.05', 'tax_code' => 'S8', 'text' => 'Hull'],
                [
                    'account' => '4000',
                    'amount' => '100.00',
                    'tax_code' => 'S8',
                    'text' => 'Trade discount',
                    'kind' => 'allowance',
                ],
                ['account' => '4000', 'amount' => '20.00', 'text' => 'Fee'],
            ],
        ]);
        self::assertSame(
            [''],
            self::refusedFields(fn () => self::get(InvoiceXml::class)->of($company, $id)),
            'without country and tax number there is none',
        );
        [$company->country, $company->taxNumber, $company->city] = ['US', 'US12345678', 'Alder Point'];
        $xml = self::get(InvoiceXml::class)->of($company, $id);
        $read = UblReader::read($xml);
        self::assertSame(
            [99205, 'CI-26-00001', 2, -10000],
            [$read->total(), $read->number, \count($read->lines), $read->others[0]->net],
        );
        $again = UblReader::read(self::library(['ubl:Invoice' => self::internal($xml)]));
        self::assertSame(
            [$read->total(), $read->tax(), $read->terms, $read->note],
            [$again->total(), $again->tax(), $again->terms, $again->note],
        );
    }

    /** EN 16931, BG-27 and BG-28: an allowance or charge belongs to its line, and the line's net is after it. */
    public function testAllowancesOfALineGoOutAndComeIn(): void
    {
        $company =
            self::get(EntityManagerInterface::class)->find(Company::class, $this->clerk->companyId) ?? self::fail();
        $this->db()->executeStatement(
            "UPDATE party SET country = 'US', city = 'Alder Point', email = 'a@b.example' WHERE code = 'C-1'",
        );
        [$company->country, $company->taxNumber, $company->city] = ['US', 'US12345678', 'Alder Point'];
        $input = self::get(\Nelbix\App\Invoices\InvoiceReader::class)->read($this->clerk, Side::Receivables, [
            'party' => 'C-1',
            'document_date' => '.',
            'lines' => [
                ['account' => '4000', 'amount' => '12 × 4.50 - 5%', 'text' => 'Cleats'],
                ['account' => '4000', 'amount' => '2 × 10 + 1.50', 'text' => 'Pins'],
            ],
        ]);
        $id = self::get(\Nelbix\App\Invoices\PostInvoice::class)->post($this->clerk, $input);
        self::assertSame(-7280, $this->balance('4000'));
        $xml = self::get(InvoiceXml::class)->of($company, $id);
        $read = UblReader::read(self::library(['ubl:Invoice' => self::internal($xml)]));
        self::assertSame(
            [[5130, 270], [2150, -150]],
            array_map(static fn ($l): array => [$l->net, $l->allowance], $read->lines),
        );
        self::assertSame(7280, $read->total());
        self::createClientHere();
        self::assertSame(
            ['12 × 4.5 - 2.70', '2 × 10 + 1.50'],
            array_column(
                (array) self::get(\Nelbix\App\Invoices\DocumentForm::class)->of(
                    self::get(EntityManagerInterface::class)->find(\Nelbix\App\Books\Document::class, $id) ??
                        self::fail(),
                    true,
                )['lines'],
                'amount',
            ),
        );
    }

    /**
     * The XML as the library's own JSON: names with their prefix, attributes after an at sign, lists where its schema has them.
     *
     * @return array<string, mixed>
     */
    private static function internal(string $xml): array
    {
        $document = new \DOMDocument();
        $document->loadXML($xml, \LIBXML_NOBLANKS);
        $lists = [
            'cac:InvoiceLine',
            'cac:TaxSubtotal',
            'cac:TaxTotal',
            'cac:PaymentMeans',
            'cac:PartyTaxScheme',
            'cbc:Note@',
            'cac:AllowanceCharge',
            'cac:AdditionalDocumentReference',
        ];
        $walk = static function (\DOMElement $element) use (&$walk, $lists): array {
            $node = [];
            foreach ($element->childNodes as $child) {
                if (!$child instanceof \DOMElement) {
                    continue;
                }
                $name = (string) $child->nodeName;
                $value = 'cbc' === $child->prefix ? $child->textContent : $walk($child);
                $isList =
                    \in_array($name, $lists, true)
                    && !(
                        'cac:PartyTaxScheme' === $name
                        && 'cac:AccountingCustomerParty' === $child->parentNode?->parentNode?->nodeName
                    );
                if ($isList) {
                    $node[$name] = [...(array) ($node[$name] ?? []), $value];
                } else {
                    $node[$name] = $value;
                }
                foreach ($child->attributes ?? [] as $attribute) {
                    $node[$name.'@'.$attribute->nodeName] = $attribute->nodeValue;
                }
            }

            return $node;
        };
        $root = $document->documentElement ?? self::fail();
        $internal = $walk($root);
        $internal['cbc:Note'] = [$internal['cbc:Note'] ?? ''];

        return $internal;
    }

    private static function createClientHere(): \Symfony\Bundle\FrameworkBundle\KernelBrowser
    {
        $browser = self::getContainer()->get('test.client');
        self::assertInstanceOf(\Symfony\Bundle\FrameworkBundle\KernelBrowser::class, $browser);
        $browser->disableReboot();
        SignedIn::as($browser, 'controller');

        return $browser;
    }

    /** 300 files damaged at random (seeded): each is refused with a reason or becomes a whole draft; nothing is half kept. */
    public function testDamagedFilesAreRefusedOrTakenWhole(): void
    {
        $this->db()->executeStatement(
            <<<SQL
            UPDATE party
            SET tax_number = 'TN-100 200', default_account_id = (SELECT id FROM account WHERE company_id = ? AND number = '5000')
            WHERE code = 'V-1'
            SQL
            ,
            [$this->clerk->companyId],
        );
        $good = self::library(self::theirs('TN100200'));
        mt_srand(31);
        $take = self::get(\Nelbix\App\Invoices\TakeElectronicInvoice::class);
        $counts = fn (): array => array_map(
            fn (string $t): int => (int) $this->db()->fetchOne('SELECT COUNT(*) FROM '.$t),
            ['document', 'stored_file', 'journal_entry'],
        );
        $taken = $refused = 0;
        for ($n = 0; $n < 300; ++$n) {
            $xml = str_replace('LS-77', 'LS-'.$n, $good);
            for ($k = mt_rand(0, 3); $k > 0; --$k) {
                $at = mt_rand(0, \strlen($xml) - 1);
                $xml =
                    substr($xml, 0, $at).
                    ['<', '>', '"', '&', '9', '-', '', "\xC3", "\0", '.', ' '][mt_rand(0, 10)].
                    substr($xml, $at + mt_rand(0, 3));
            }
            $before = $counts();
            try {
                $take->take($this->clerk, $xml, 'x.xml');
                ++$taken;
                self::assertSame([$before[0] + 1, $before[2]], [$counts()[0], $counts()[2]]);
            } catch (\Nelbix\Core\Refused $e) {
                ++$refused;
                self::assertNotSame('', $e->problems[0]->message);
                self::assertSame($before, $counts());
            }
        }
        self::assertGreaterThan(50, $taken);
        self::assertGreaterThan(50, $refused);
    }

    /** 150 damaged pictures and PDFs: kept as what their bytes are, or refused; never shown as something else. */
    public function testDamagedPapersAreRefusedOrKeptAsWhatTheyAre(): void
    {
        $pdf = new \Dompdf\Dompdf();
        $pdf->loadHtml('Invoice');
        $pdf->render();
        $picture = imagecreatetruecolor(40, 30) ?: self::fail();
        ob_start();
        imagepng($picture);
        $samples = [
            (string) $pdf->output(),
            (string) ob_get_clean(),
            "\xFF\xD8\xFF\xE0junk",
            "MZ\x90\0binary",
            '<svg xmlns="http://www.w3.org/2000/svg"><script>alert(1)</script></svg>',
            '<html><script>alert(1)</script></html>',
            "%PDF-1.4\n<script>",
        ];
        mt_srand(32);
        $files = self::get(\Nelbix\App\Platform\FileStore::class);
        $kept = $refused = 0;
        for ($n = 0; $n < 150; ++$n) {
            $bytes = $samples[$n % 7];
            for ($k = mt_rand(0, 4); $k > 0; --$k) {
                $at = mt_rand(0, \strlen($bytes) - 1);
                $bytes = substr($bytes, 0, $at).\chr(mt_rand(0, 255)).substr($bytes, $at + mt_rand(0, 6));
            }
            try {
                $id = $files->keep($this->clerk, 'paper', 0, 'x.pdf', $bytes, \Nelbix\App\Platform\FileStore::PAPERS);
                ++$kept;
                self::assertContains(
                    $this->db()->fetchOne('SELECT media_type FROM stored_file WHERE id = ?', [$id]),
                    \Nelbix\App\Platform\FileStore::PAPERS,
                );
            } catch (\Nelbix\Core\Refused) {
                ++$refused;
            }
        }
        self::assertSame(150, $kept + $refused);
        self::assertGreaterThan(30, $kept);
        self::assertGreaterThan(50, $refused);
    }
}
