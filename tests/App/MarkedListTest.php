<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Import\ImportFile;
use Nelbix\App\Parties\SaveParty;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\DomCrawler\Crawler;

/** The open items go out as a list to a customer, and the marked list comes back as a placement. */
final class MarkedListTest extends ScreenCase
{
    private const BOARD = '/TEST/receivables/receipt';

    private function bring(string $bytes, string $name = 'list.csv'): Crawler
    {
        $token = $this->browser->request('GET', self::BOARD)->filter('input[name=_token]')->last()->attr('value');
        $type = str_ends_with($name, 'csv') ? 'text/csv' : 'application/octet-stream';

        return $this->browser->request(
            'POST',
            self::BOARD.'/marked',
            ['_token' => $token, 'date' => '.', 'bank' => '1000'],
            ['list' => self::upload($bytes, $name, $type)],
        );
    }

    private function file(string $format): string
    {
        $id = $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1'");
        ob_start();
        $this->browser->request('GET', "/TEST/receivables/party/$id/open-list?format=$format");
        $response = $this->browser->getInternalResponse();
        ob_end_clean();

        return (string) $response->getContent();
    }

    public function testTheListGoesOutAndComesBackAsAPlacement(): void
    {
        $a = $this->itemOf($this->invoice(Side::Receivables, '400.00', ['their_order' => 'PO-77']));
        $b = $this->itemOf($this->invoice(Side::Receivables, '250.00', ['document_date' => '2026-05-01']));
        $csv = $this->file('csv');
        self::assertStringContainsString(
            'number,document_date,their_order,text,due_date,currency,open,discount,discount_through,pay',
            $csv,
        );
        self::assertStringContainsString(',PO-77,,2026-07-10,USD,400.00,8.00,2026-06-20,', $csv);
        self::assertStringStartsWith('%PDF', $this->file('pdf'));

        $page = $this->bring("number,pay\n".$this->number($a).",x\n".$this->number($b).",100.00\n");
        self::assertSame('C-1', $page->filter('input[name=party]')->attr('value'));
        self::assertSame(
            ['400.00', '8.00', '100.00'],
            [
                $page->filter("input[name=\"placed[$a]\"]")->attr('value'),
                $page->filter("input[name=\"discount[$a]\"]")->attr('value'),
                $page->filter("input[name=\"placed[$b]\"]")->attr('value'),
            ],
        );
        self::assertStringContainsString('their list marks it', $page->filter('.idea')->text());
        self::assertStringContainsString('492.00', $page->filter('#panel')->text(), 'the amount is what is marked');
    }

    private function number(int $item): string
    {
        return (string) $this->db()->fetchOne('SELECT number FROM open_item WHERE id = ?', [$item]);
    }

    public function testAWorkbookComesBackToo(): void
    {
        $a = $this->itemOf($this->invoice(Side::Receivables, '400.00'));
        $workbook = $this->file('xlsx');
        $path = (string) tempnam(sys_get_temp_dir(), 'nelbix-wb');
        file_put_contents($path, $workbook);
        $zip = new \ZipArchive();
        self::assertTrue($zip->open($path));
        $sheet = (string) $zip->getFromName('xl/worksheets/sheet1.xml');
        // the customer types into the empty cell behind the last
        $marked = (string) preg_replace(
            '~(<row r="2".*?)(<c r="J2"[^>]*/>|<c r="J2"[^>]*>.*?</c>)?</row>~s',
            '$1<c r="J2" t="inlineStr"><is><t>x</t></is></c></row>',
            $sheet,
            1,
        );
        self::assertNotSame($sheet, $marked);
        $zip->addFromString('xl/worksheets/sheet1.xml', $marked);
        $zip->close();
        $page = $this->bring((string) file_get_contents($path), 'list.xlsx');
        unlink($path);
        self::assertSame('400.00', $page->filter("input[name=\"placed[$a]\"]")->attr('value'));
    }

    public function testWhatCannotBeReadIsSaidAndNothingIsPlaced(): void
    {
        $a = $this->itemOf($this->invoice(Side::Receivables, '400.00'));
        self::get(SaveParty::class)->save($this->clerk, Side::Receivables, [
            'code' => 'C-2',
            'name' => 'Other',
            'default_account' => '4000',
        ]);
        $other = $this->itemOf($this->invoice(Side::Receivables, '10.00', ['party' => 'C-2']));
        $number = $this->number($a);
        foreach (
            [
                "number,pay\n$number,\n" => 'Nothing is marked',
                "number,pay\nCI-99-1,x\n" => 'Line 2: nothing with the number “CI-99-1” is open.',
                "number,pay\n$number,400.01\n" => 'at most 400.00',
                "number,pay\n$number,perhaps\n" => 'neither a mark nor an amount',
                "number,pay\n$number,x\n{$this->number($other)},x\n" => 'one list is of one customer',
                "number,amount\n$number,x\n" => 'pay',
                "PK\x03\x04 no workbook" => 'no workbook',
            ] as $bytes => $why
        ) {
            $page = $this->bring($bytes);
            self::assertSame(422, $this->browser->getResponse()->getStatusCode(), $bytes);
            self::assertStringContainsString($why, $page->filter('.said-refused')->text());
            self::assertSame(0, $page->filter('input[name^="placed["][value!=""]')->count());
        }
    }

    public function testColumnsAndOrderAreEachPersonsOwn(): void
    {
        $this->invoice(Side::Receivables, '400.00', ['their_order' => 'PO-77', 'description' => 'new mast']);
        $this->invoice(Side::Receivables, '900.00', ['document_date' => '2026-06-12', 'their_order' => 'PO-12']);
        $heads = fn (): string => implode(
            ' ',
            $this->page(self::BOARD.'?party=C-1')
                ->filter('[data-side=owed] th')
                ->each(static fn (Crawler $th): string => $th->text()),
        );
        self::assertStringContainsString('Owed Dated Due', $heads());
        self::assertStringContainsString(
            'PO-77, new mast',
            $this->page(self::BOARD.'?party=C-1')
                ->filter('[data-side=owed]')
                ->text(),
        );
        $live = $this->post(self::BOARD.'?party=C-1', self::BOARD.'/live', [
            'party' => 'C-1',
            'date' => '.',
            '_columns' => '1',
            'columns' => ['order'],
            'order' => 'open',
        ]);
        self::assertStringContainsString(
            'PO-12',
            $live->filter('[data-side=owed] tbody tr')->first()->text(),
            'the largest first',
        );
        self::assertSame('Owed Due  Open, USD Placed Discount', $heads(), 'remembered');
        $this->as('receivables');
        self::assertStringContainsString('Dated', $heads(), 'not of others');
    }

    public function testAReceiptOfAnUnknownPayerComesByFileToo(): void
    {
        $taken = self::get(ImportFile::class)->import(
            $this->clerk,
            'receipts',
            "party,date,bank,currency,amount,reference\n?,2026-06-15,1000,USD,77.00,no name\n",
        );
        self::assertSame([[], -7700], [$taken['errors'], $this->balance('2170')]);
        $wrong = self::get(ImportFile::class)->import(
            $this->clerk,
            'payments',
            "party,date,bank,currency,amount,reference\n?,2026-06-15,1000,USD,77.00,no name\n",
        );
        self::assertStringContainsString('no vendor', implode(' ', array_column($wrong['errors'], 'message')));
    }

    public function testAPayerOfAGroupIsOfferedTheOthersThatOwe(): void
    {
        foreach (['C-1' => 'North', 'C-2' => 'North', 'C-3' => 'South', 'C-4' => 'North'] as $code => $group) {
            self::get(SaveParty::class)->save(
                $this->clerk,
                Side::Receivables,
                ['code' => $code, 'name' => $code, 'group' => $group, 'default_account' => '4000'],
                'C-1' === $code ? (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1'") : null,
            );
        }
        foreach (['C-2', 'C-3'] as $code) {
            $this->invoice(Side::Receivables, '10.00', ['party' => $code]);
        }
        $board = $this->page(self::BOARD.'?party=C-1');
        self::assertSame('C-2', $board->filter('[data-also-group]')->attr('data-also-group'), 'C-4 owes nothing');
        self::assertSame(
            0,
            $this->page(self::BOARD.'?party=C-3')
                ->filter('[data-also-group]')
                ->count(),
        );
    }
}
