<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Invoices\DocumentListQuery;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use PHPUnit\Framework\Attributes\DataProvider;

/** The document lists: filters, the day they are seen from, totals, what a person left. */
final class ListTest extends ScreenCase
{
    /** @return iterable<string, array{array<string, string>, list<string>}> */
    public static function filters(): iterable
    {
        yield 'all posted, newest first' => [[], ['C-9', 'B-2', 'A-1']];
        yield 'kind' => [['kind' => 'credit_note'], ['C-9']];
        yield 'party by name' => [['party' => 'fenw'], ['C-9', 'B-2', 'A-1']];
        yield 'another party' => [['party' => 'V-2'], []];
        yield 'their number' => [['text' => 'b-2'], ['B-2']];
        yield 'text' => [['text' => 'oak'], ['A-1']];
        yield 'a percent sign is a percent sign' => [['text' => '%'], []];
        yield 'dates' => [['from' => '6/5', 'to' => '6/9'], ['B-2']];
        yield 'amounts' => [['least' => '100', 'most' => '100+50'], ['B-2', 'A-1']];
        yield 'who' => [['who' => 'receivables'], []];
        yield 'drafts' => [['state' => 'draft'], []];
        yield 'seen from before' => [['as_of' => '2026-06-06'], ['A-1']];
    }

    /**
     * @param array<string, string> $filters
     * @param list<string> $expected
     */
    #[DataProvider('filters')]
    public function testFilters(array $filters, array $expected): void
    {
        $this->invoice(Side::Payables, '100.00', [
            'number' => 'A-1',
            'document_date' => '2026-06-02',
            'description' => 'white oak',
        ]);
        $this->invoice(Side::Payables, '150.00', ['number' => 'B-2', 'document_date' => '2026-06-08']);
        $this->invoice(Side::Payables, '20.00', [
            'number' => 'C-9',
            'kind' => 'credit_note',
            'document_date' => '2026-06-10',
        ]);
        $list = self::get(DocumentListQuery::class)->of($this->clerk->companyId, Side::Payables, 'USD', [
            ...array_fill_keys(DocumentListQuery::FILTERS, ''),
            ...$filters,
        ]);
        self::assertSame($expected, array_column($list['rows'], 'their_number'));
        self::assertSame(\count($expected), $list['count']);
        self::assertSame(array_sum(array_map('intval', array_column($list['rows'], 'total'))), $list['total']);
    }

    public function testWhatWasOpenOnADay(): void
    {
        $id = $this->invoice(Side::Payables, '100.00', ['document_date' => '2026-06-01']);
        $this->money(
            Side::Payables,
            4000,
            [new PlacementRequest($this->itemOf($id), 4000)],
            [],
            '2026-06-10',
            DocumentKind::Payment,
        );
        $open = fn (string $day): int => (int) array_column(
            self::get(DocumentListQuery::class)->of($this->clerk->companyId, Side::Payables, 'USD', [
                ...array_fill_keys(DocumentListQuery::FILTERS, ''),
                'as_of' => $day,
                'kind' => 'invoice',
            ])['rows'],
            'open',
        )[0];
        self::assertSame([10000, 6000], [$open('2026-06-09'), $open('2026-06-10')]);
    }

    public function testFiltersAreKeptPerPersonAndCleared(): void
    {
        $this->invoice(Side::Payables, '100.00', ['number' => 'KEEP-1']);
        $this->invoice(Side::Payables, '999.00', ['number' => 'OTHER-2']);
        $all = array_fill_keys(DocumentListQuery::FILTERS, '');
        $this->browser->request(
            'GET',
            '/TEST/payables/documents?'.
                http_build_query([...$all, 'state' => 'posted', 'text' => 'KEEP', 'as_of' => '6/12']),
        );
        $again = $this->browser->request('GET', '/TEST/payables/documents');
        self::assertSame(
            ['KEEP', ''],
            [$again->filter('#f-text')->attr('value'), $again->filter('#f-as_of')->attr('value')],
            'a past day is not kept',
        );
        self::assertStringNotContainsString('OTHER-2', $again->filter('table.list')->text());
        self::assertStringContainsString(
            'OTHER-2',
            $this->browser->request('GET', '/TEST/payables/documents?state=all')->filter('table.list')->text(),
            'a link shows what it says',
        );
        $this->as('payables');
        self::assertStringContainsString(
            'OTHER-2',
            $this->browser->request('GET', '/TEST/payables/documents')->filter('table.list')->text(),
            'others have their own',
        );
        $this->as('controller');
        self::assertStringContainsString(
            'OTHER-2',
            $this->browser->request('GET', '/TEST/payables/documents?clear=1')->filter('table.list')->text(),
        );
        self::assertSame(
            '',
            $this->browser->request('GET', '/TEST/payables/documents')->filter('#f-text')->attr('value'),
        );
        $wrong = $this->browser->request(
            'GET',
            '/TEST/payables/documents?'.
                http_build_query([...$all, 'from' => 'x', 'least' => 'y', 'text' => '<script>alert(1)</script>']),
        );
        self::assertCount(2, $wrong->filter('.wrong'));
        self::assertStringNotContainsString('<script>alert(1)', (string) $this->browser->getResponse()->getContent());
        $this->browser->request(
            'GET',
            '/TEST/payables/documents?'.http_build_query([...$all, 'text' => 'KEEP', 'format' => 'csv']),
        );
        self::assertSame(2, substr_count($this->browser->getInternalResponse()->getContent(), "\r\n"));
        $this->browser->request(
            'GET',
            '/TEST/payables/items?'.
                http_build_query(['party' => 'nobody', 'only' => '', 'as_of' => '', 'settled' => '']),
        );
        self::assertSame(
            'nobody',
            $this->browser->request('GET', '/TEST/payables/items')->filter('input[name=party]')->attr('value'),
        );
        self::assertSame(
            '',
            $this->browser->request('GET', '/TEST/payables/items?clear=1')->filter('input[name=party]')->attr('value'),
        );
    }

    /** @return iterable<string, array{string, string}> */
    public static function files(): iterable
    {
        yield 'proposals' => ['/payables/proposals', 'number,state,pay_date'];
        yield 'batches' => ['/payables/batches', 'name,posting_date,by'];
        yield 'recurring' => ['/payables/recurring', 'name,party,every'];
        yield 'outbox' => ['/receivables/outbox', 'to,subject,document'];
        yield 'tasks' => ['/tasks', 'document,party,text'];
    }

    #[DataProvider('files')]
    public function testEveryListIsAFileToo(string $path, string $header): void
    {
        $page = $this->browser->request('GET', '/TEST'.$path);
        self::assertCount(1, $page->filter('a[data-export]'), 'the page offers it');
        $this->browser->click($page->filter('a[data-export]')->link());
        self::assertStringStartsWith($header, $this->browser->getInternalResponse()->getContent());
        $this->browser->click($page->selectLink('XLSX')->link());
        self::assertSame('PK', substr($this->browser->getInternalResponse()->getContent(), 0, 2));
    }

    /** The page shows a part and says so; the file has them all. */
    public function testExportsAreNeverCut(): void
    {
        $book = (int) $this->db()->fetchOne('SELECT id FROM check_book');
        $company = $this->clerk->companyId;
        $this->db()->executeStatement(
            <<<SQL
            INSERT INTO bank_check (check_book_id, number, state, amount, reason)
            SELECT $book, 1001 + seq, 'skipped', 0, 'torn' FROM seq_0_to_2299
            SQL
            ,
        );
        $this->db()->executeStatement('UPDATE check_book SET next_number = 1001 + 2300');
        $this->db()->executeStatement(
            <<<SQL
            INSERT INTO delivery (company_id, number, party_id, note_number, delivered_on, currency, rate, amount, amount_base,
                account_id, created_by_id, created_at, reason)
            SELECT $company, CONCAT('GR-', seq), p.id, '', '2026-06-01', 'USD', 1, 0, 0, a.id, {$this->clerk->userId}, NOW(), ''
            FROM seq_1_to_400, party p, account a
            WHERE p.code = 'V-1' AND a.number = '5000'
            SQL
            ,
        );
        $lines = function (string $path): int {
            $this->browser->request('GET', $path);

            return substr_count($this->browser->getInternalResponse()->getContent(), "\r\n") - 1;
        };
        self::assertSame(2300, $lines('/TEST/bank/register/'.$book.'?format=csv'));
        self::assertSame(400, $lines('/TEST/deliveries?format=csv'));
        self::assertStringContainsString(
            '1800 more are not shown',
            $this->page('/TEST/bank/register/'.$book)->text(),
        );
        self::assertStringContainsString('100 more are not shown', $this->page('/TEST/deliveries')->text());
    }
}
