<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\KeepOrder;
use Nelbix\App\Goods\OrderReader;
use Nelbix\App\Goods\RecordDelivery;
use Nelbix\App\Goods\TakeElectronicOrder;
use Nelbix\App\Import\ImportFile;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Invoices\TakeElectronicInvoice;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use PHPUnit\Framework\Attributes\DataProvider;

/** Orders, deliveries and the goods of an invoice out of files. Source: commands.md, EN 16931 BT-13, BT-16, BT-132. */
final class PaperMatchTest extends AppCase
{
    use OtherLibrary;

    protected function setUp(): void
    {
        parent::setUp();
        $this->db()->executeStatement(
            <<<'SQL'
            UPDATE party
            SET tax_number = 'TN-100 200', default_account_id = (SELECT id FROM account WHERE company_id = ? AND number = '5000')
            WHERE code = 'V-1'
            SQL
            ,
            [$this->clerk->companyId],
        );
    }

    /** @return int the id of the line of an order of 42.5 white oak at 18.40 */
    private function ordered(string $number = 'PO-7'): int
    {
        $order = self::get(KeepOrder::class)->enter(
            $this->buyer,
            self::get(OrderReader::class)->read($this->buyer, [
                'party' => 'V-1',
                'number' => $number,
                'ordered_on' => '2026-06-01',
                'lines' => [['account' => '1400', 'text' => 'white  oak', 'quantity' => '42.5', 'price' => '18.40']],
            ]),
        );

        return (int) $this->db()->fetchOne('SELECT id FROM purchase_order_line WHERE order_id = ?', [$order]);
    }

    private function came(int $line, string $quantity, string $note): int
    {
        return self::get(RecordDelivery::class)->record(
            $this->receiver,
            self::get(DeliveryReader::class)->read($this->receiver, [
                'delivered_on' => '2026-06-05',
                'note_number' => $note,
                'lines' => [['order_line' => (string) $line, 'quantity' => $quantity]],
            ]),
        );
    }

    /**
     * @param array<string, mixed> $more of the invoice
     *
     * @return array{id: int, draft: array<string, mixed>, said: list<string>, matched: list<string>}
     */
    private function taken(array $more, string $syntax, string $lineOfOrder = ''): array
    {
        $invoice = self::theirs('TN100200');
        $invoice['ubl:Invoice'] = [...$invoice['ubl:Invoice'], ...$more];
        if ('' !== $lineOfOrder) {
            $invoice['ubl:Invoice']['cac:InvoiceLine'][0]['cac:OrderLineReference'] = ['cbc:LineID' => $lineOfOrder];
        }
        $taken = self::get(TakeElectronicInvoice::class)->take($this->clerk, self::library($invoice, $syntax), 'a.xml');
        $draft = $this->db()->fetchOne('SELECT draft_input FROM document WHERE id = ?', [$taken['draft']]);

        return [...$taken, 'id' => $taken['draft'], 'draft' => (array) json_decode((string) $draft, true)];
    }

    /** @return iterable<string, array{string}> */
    public static function syntaxes(): iterable
    {
        yield 'UBL' => ['UBL'];
        yield 'CII' => ['CII'];
    }

    #[DataProvider('syntaxes')]
    public function testAnInvoiceThatNamesAnOrderFindsItsLines(string $syntax): void
    {
        $line = $this->ordered();
        $this->came($line, '30', 'N-5');
        $taken = $this->taken(['cac:OrderReference' => ['cbc:ID' => 'po 7']], $syntax, '1');
        self::assertSame([], $taken['said']);
        self::assertCount(1, $taken['matched']);
        self::assertStringContainsString(
            '30 with GR-26-00001 of PO-7, 12.5 with PO-7, not here yet',
            $taken['matched'][0],
        );
        $lines = (array) $taken['draft']['lines'];
        self::assertSame(['30 × 18.4', '12.5 × 18.4', '10.00'], array_column($lines, 'amount'));
        $input = self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, $taken['draft']);
        self::get(PostInvoice::class)->post($this->clerk, $input, null, $taken['id']);
        // 30 × 18.40 clear what was accrued, 12.5 × 18.40 wait for their delivery, the discount is nobody's goods
        self::assertSame(
            [55200, 0, 23000, -1000, -83376],
            array_map($this->balance(...), ['1400', '2110', '1420', '5000', '2100']),
        );
    }

    public function testAnInvoiceThatNamesADeliveryNoteFindsItByItsWords(): void
    {
        $this->came($this->ordered(), '42.5', 'N-5');
        $taken = $this->taken(['cac:DespatchDocumentReference' => ['cbc:ID' => 'N-5']], 'UBL');
        self::assertSame(['42.5 × 18.4', '10.00'], array_column((array) $taken['draft']['lines'], 'amount'));
        self::assertStringContainsString('42.5 with GR-26-00001 of PO-7', implode('', $taken['matched']));
    }

    public function testWhatIsNotMatchedIsSaid(): void
    {
        $taken = $this->taken(['cac:OrderReference' => ['cbc:ID' => 'PO-99']], 'UBL');
        self::assertSame([], $taken['matched']);
        self::assertStringContainsString('“White oak” is not matched', implode('', $taken['said']));
        self::assertStringContainsString('It names PO-99, of which nothing fits', implode('', $taken['said']));
        // half of it is nobody's: it stands as a line of its own
        $this->came($this->ordered(), '20', 'N-5');
        $this->db()->executeStatement('UPDATE purchase_order SET closed_on = ordered_on');
        $taken = $this->taken(['cac:OrderReference' => ['cbc:ID' => 'PO-7'], 'cbc:ID' => 'LS-78'], 'UBL', '1');
        self::assertSame(
            ['20 × 18.4', '22.5 × 18.4', '10.00'],
            array_column((array) $taken['draft']['lines'], 'amount'),
        );
        self::assertStringContainsString('22.5 with nothing', implode('', $taken['matched']));
    }

    /** @return list<string> */
    private function import(string $kind, string $csv, bool $dry = false): array
    {
        $result = self::get(ImportFile::class)->import($this->clerk, $kind, $csv, $dry);

        return array_map(static fn (Problem $p): string => "{$p->line} {$p->field}: {$p->message}", $result['errors']);
    }

    public function testOrdersDeliveriesAndTheirInvoicesComeFromFiles(): void
    {
        $orders =
            "vendor,order,line,text,quantity,unit,price,account\nV-1,A-1,1,oak,10,,12.50,1400\nV-1,A-1,2,ash,4,,30,1400\n";
        self::assertSame([], $this->import('purchase-orders', $orders, true));
        self::assertSame([], $this->import('purchase-orders', $orders));
        self::assertSame(
            ['2 order: The number A-1 is already used; leave it empty for the next one.'],
            $this->import('purchase-orders', $orders),
        );
        $deliveries =
            "vendor,note,date,order,line,quantity,price\nV-1,N-1,2026-06-08,A-1,1,6,\nV-1,N-1,2026-06-08,A-1,2,4,\n".
            "V-1,N-2,2026-06-09,A-1,1,2,12.60\n";
        self::assertSame([], $this->import('deliveries', $deliveries));
        self::assertCount(1, $this->import('deliveries', $deliveries), 'the same file again asks');
        self::assertSame([-7500 - 12000 - 2520], [$this->balance('2110')]);
        $head = "party,number,document_date,account,amount,delivery_order,delivery_line,quantity,price\n";
        // 6 and 2 were delivered, 1 is to come; the freight is nobody's goods
        $invoices = $head."V-1,F-1,2026-06-12,,113.40,A-1,1,9,12.60\nV-1,F-1,2026-06-12,5000,5.00,,,,\n";
        self::assertSame([], $this->import('vendor-invoices', $invoices, true));
        self::assertSame([], $this->import('vendor-invoices', $invoices));
        self::assertSame([-12000, 1260, 60, 500], array_map($this->balance(...), ['2110', '1420', '5800', '5000']));
        $wrong =
            $head.
            "V-1,F-2,2026-06-12,,12.60,A-1,1,2,6.30\nV-1,F-2,2026-06-12,,1.00,A-1,2,4,30\nV-1,F-2,2026-06-12,,3.00,A-9,1,1,3\n";
        $errors = $this->import('vendor-invoices', $wrong);
        self::assertStringContainsString(
            '2 delivery_line: Of line 1 of “A-1” only 1 are delivered or to come',
            $errors[0],
        );
        self::assertStringContainsString('3 amount: Quantity × price is 120.00, the amount says 1.00', $errors[1]);
        self::assertStringContainsString('4 delivery_line: Of line 1 of “A-9” none are', $errors[2]);
        // two invoices of one file do not take the same
        $twice = $head."V-1,F-3,2026-06-12,,12.60,A-1,1,1,12.60\nV-1,F-4,2026-06-12,,12.60,A-1,1,1,12.60\n";
        self::assertStringContainsString('3 delivery_line', $this->import('vendor-invoices', $twice, true)[0]);
        $unknown = "vendor,note,date,order,line,quantity\nV-1,N-3,2026-06-08,A-1,7,6\n";
        self::assertSame(
            ['2 order: Fenwick Timber has no order “A-1” with a line 7.'],
            $this->import('deliveries', $unknown),
        );
        $gap = "vendor,order,line,text,quantity,price,account\nV-1,A-2,1,oak,1,2,1400\nV-1,A-2,3,ash,1,2,1400\n";
        self::assertStringContainsString(
            '3 line: The lines of an order are numbered',
            $this->import('purchase-orders', $gap)[0],
        );
    }

    private static function order(string $sum = '525.00'): string
    {
        $ns = 'urn:oasis:names:specification:ubl:schema:xsd:';

        return <<<XML
        <?xml version="1.0" encoding="UTF-8"?>
        <Order xmlns="{$ns}Order-2" xmlns:cac="{$ns}CommonAggregateComponents-2" xmlns:cbc="{$ns}CommonBasicComponents-2">
            <cbc:ID>B-44</cbc:ID>
            <cbc:IssueDate>2026-06-02</cbc:IssueDate>
            <cbc:Note>to the slip</cbc:Note>
            <cbc:DocumentCurrencyCode>USD</cbc:DocumentCurrencyCode>
            <cac:SellerSupplierParty><cac:Party>
                <cac:PartyName><cbc:Name>Fenwick</cbc:Name></cac:PartyName>
                <cac:PartyTaxScheme><cbc:CompanyID>TN100200</cbc:CompanyID></cac:PartyTaxScheme>
            </cac:Party></cac:SellerSupplierParty>
            <cac:Delivery><cac:RequestedDeliveryPeriod><cbc:EndDate>2026-06-20</cbc:EndDate></cac:RequestedDeliveryPeriod></cac:Delivery>
            <cac:AnticipatedMonetaryTotal>
                <cbc:LineExtensionAmount currencyID="USD">$sum</cbc:LineExtensionAmount>
                <cbc:PayableAmount currencyID="USD">$sum</cbc:PayableAmount>
            </cac:AnticipatedMonetaryTotal>
            <cac:OrderLine><cac:LineItem>
                <cbc:ID>1</cbc:ID><cbc:Quantity unitCode="KGM">40</cbc:Quantity>
                <cac:Price><cbc:PriceAmount currencyID="USD">125</cbc:PriceAmount><cbc:BaseQuantity>10</cbc:BaseQuantity></cac:Price>
                <cac:Item><cbc:Name>lead ballast</cbc:Name></cac:Item>
            </cac:LineItem></cac:OrderLine>
            <cac:OrderLine><cac:LineItem>
                <cbc:ID>2</cbc:ID><cbc:Quantity unitCode="H87">2</cbc:Quantity>
                <cac:Price><cbc:PriceAmount currencyID="USD">12.50</cbc:PriceAmount></cac:Price>
                <cac:Item><cbc:Name>shackles</cbc:Name></cac:Item>
            </cac:LineItem></cac:OrderLine>
        </Order>
        XML;
    }

    public function testAnOrderInUblIsEntered(): void
    {
        $take = self::get(TakeElectronicOrder::class);
        $id = $take->take($this->buyer, self::order());
        self::assertSame(
            ['number' => 'B-44', 'wanted_by' => '2026-06-20', 'amount' => '52500', 'note' => 'to the slip'],
            array_map(
                strval(...),
                (array) $this->db()->fetchAssociative(
                    'SELECT number, wanted_by, amount, note FROM purchase_order WHERE id = ?',
                    [$id],
                ),
            ),
        );
        self::assertSame(
            [['lead ballast', '40.0000', 'KGM', '12.500000'], ['shackles', '2.0000', 'H87', '12.500000']],
            $this->db()->fetchAllNumeric(
                'SELECT text, quantity, unit, price FROM purchase_order_line WHERE order_id = ? ORDER BY position',
                [$id],
            ),
        );
        foreach (
            [
                self::order() => 'The number B-44 is already used',
                self::order('526.00') => 'they add up to 525.00',
                str_replace('TN100200', 'TN-9', self::order()) => 'No vendor has the tax number TN-9',
                str_replace('Order-2', 'Quote-2', self::order()) => 'not an order in UBL 2.1',
                str_replace('unitCode="KGM"', 'unitCode="??"', self::order()) => 'unit',
                str_replace('>40<', '>forty<', self::order()) => '“forty” is not a number',
            ] as $xml => $said
        ) {
            try {
                $take->take($this->buyer, (string) $xml);
                self::fail($said);
            } catch (Refused $e) {
                self::assertStringContainsString($said, $e->getMessage());
            }
        }
    }
}
