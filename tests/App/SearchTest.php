<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Parties\Pickers;
use Nelbix\App\Platform\WordIndex;
use Nelbix\Core\Ledger\Side;
use PHPUnit\Framework\Attributes\DataProvider;

/** What a clerk types finds what they mean: any part of a word, words in any order, numbers however they are spelt. */
final class SearchTest extends ScreenCase
{
    protected function setUp(): void
    {
        parent::setUp();
        $save = self::get(\Nelbix\App\Parties\SaveParty::class);
        foreach (
            [
                ['V-70', 'Lindqvist Crane Hire', '98-7654321', '4 Øster Quay'],
                ['V-71', 'Pell & Daughters', '', '12 Mill Lane'],
                ['V-7', 'Seventh Sail Loft', '', 'V-70 Building'],
            ] as [$code, $name, $tax, $street]
        ) {
            $save->save($this->clerk, Side::Payables, [
                'code' => $code,
                'name' => $name,
                'tax_number' => $tax,
                'street' => $street,
            ]);
        }
    }

    /** @return iterable<string, array{string, list<string>}> typed, and the codes in their order */
    public static function typed(): iterable
    {
        yield 'words in any order' => ['crane lind', ['V-70']];
        yield 'the beginnings of two' => ['pell daugh', ['V-71']];
        yield 'the middle of a word' => ['ughter', ['V-71']];
        yield 'the middle of a tax number' => ['76543', ['V-70']];
        yield 'over what stands in the number' => ['987654', ['V-70']];
        yield 'a street' => ['mill la', ['V-71']];
        yield 'a letter that is not on the keyboard' => ['Øster', ['V-70']];
        yield 'the code first when it matches' => ['V-7', ['V-7', 'V-70', 'V-71']];
        yield 'all words must be there' => ['crane daugh', []];
        yield 'no signs of a pattern' => ['%', []];
        yield 'nor those of a word' => ['_ell', ['V-71']];
    }

    /** @param list<string> $codes */
    #[DataProvider('typed')]
    public function testPickersAndSearchFind(string $typed, array $codes): void
    {
        $found = array_column(
            self::get(Pickers::class)->find($this->clerk->companyId, Side::Payables, 'party', $typed),
            'code',
        );
        self::assertSame($codes, array_values(array_intersect($found, ['V-7', 'V-70', 'V-71'])));
        $page = $this->browser->request('GET', '/TEST/search?q='.urlencode($typed));
        $there = $page->filter('table.found')->count() > 0 ? $page->filter('table.found')->text() : '';
        foreach ($codes as $code) {
            self::assertStringContainsString($code, $there);
        }
    }

    public function testWhatIsRenamedIsFoundByItsNewNameAlone(): void
    {
        $db = $this->db();
        $id = (int) $db->fetchOne("SELECT id FROM party WHERE code = 'V-71'");
        self::get(\Nelbix\App\Parties\SaveParty::class)->save(
            $this->clerk,
            Side::Payables,
            ['code' => 'V-71', 'name' => 'Marlow Brothers', 'street' => ''],
            $id,
        );
        $find = fn (string $q): array => array_column(
            self::get(Pickers::class)->find($this->clerk->companyId, Side::Payables, 'party', $q),
            'code',
        );
        self::assertSame([[], ['V-71']], [$find('daugh'), $find('brothers marl')]);
        self::assertSame([], $find('mill'));
    }

    public function testOtherPickersTakeWordsInAnyOrder(): void
    {
        $find = fn (string $what, string $q): array => array_column(
            self::get(Pickers::class)->find($this->clerk->companyId, Side::Payables, $what, $q),
            'code',
        );
        $name = (string) $this->db()->fetchOne("SELECT name FROM account WHERE number = '5000'");
        self::assertContains('5000', $find('account', substr($name, 2, 4)));
        self::assertSame('5000', $find('account', '5000')[0]);
        self::assertNotContains('2100', $find('account', '2100'), 'a control account is closed to lines');
    }

    public function testDocumentsAreFoundByWhatTheySay(): void
    {
        $this->invoice(Side::Payables, '1280.00', [
            'number' => 'INV 0042/7',
            'description' => 'Teak for the Kittiwake',
            'lines' => [['account' => '5000', 'amount' => '1280.00', 'text' => 'planks, clear grade']],
        ]);
        $number = (string) $this->db()->fetchOne('SELECT number FROM document ORDER BY id DESC LIMIT 1');
        $entry = (string) $this->db()->fetchOne('SELECT number FROM journal_entry ORDER BY id DESC LIMIT 1');
        $typed = [
            'kittiw teak',
            'clear pla',
            '1280',
            '1,280.00',
            '1 280.00',
            'inv-42.7',
            $number,
            str_replace('-', ' ', $number),
            strtolower(str_replace('-', '.', $number)),
            ltrim(substr($number, -5), '0'),
        ];
        foreach ($typed as $q) {
            $page = $this->browser->request('GET', '/TEST/search?q='.urlencode($q));
            self::assertStringContainsString($number, $page->filter('main')->text(), $q);
        }
        $page = $this->browser->request('GET', '/TEST/search?q='.urlencode(strtolower(str_replace('-', '', $entry))));
        self::assertStringContainsString($entry, $page->filter('table.found')->text());
        foreach (['kittiwakes', '1281', 'zebra'] as $q) {
            $page = $this->browser->request('GET', '/TEST/search?q='.urlencode($q));
            self::assertCount(0, $page->filter('table.found'), $q);
        }
    }

    public function testWords(): void
    {
        self::assertSame(['pell', 'daughters', '12'], WordIndex::words('Pell & Daughters, pell 12.'));
        self::assertSame(['øster'], WordIndex::words('Øster'));
        self::assertSame(24, mb_strlen(WordIndex::words(str_repeat('ß', 40))[0]));
        self::assertSame([], WordIndex::words(' .,-%_ '));
    }
}
