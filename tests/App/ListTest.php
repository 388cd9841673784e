<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Invoices\DocumentFilter;
use Nelbix\App\Invoices\DocumentListQuery;
use Nelbix\App\Platform\BooksDay;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use PHPUnit\Framework\Attributes\DataProvider;
use Symfony\Component\DomCrawler\Crawler;

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
        $query = self::get(DocumentListQuery::class);
        $filter = $this->filter($filters);
        $rows = $query->page($filter)['rows'];
        self::assertSame($expected, array_column($rows, 'their_number'));
        self::assertSame(
            ['count' => \count($expected), 'total' => array_sum(array_map('intval', array_column($rows, 'total')))],
            $query->foot($filter),
        );
    }

    /** @param array<string, string> $typed */
    private function filter(array $typed): DocumentFilter
    {
        $days = self::get(BooksDay::class);
        $company = $this->clerk->companyId;

        return new DocumentFilter($company, Side::Payables, 'USD', $days->input($company), $days->of($company), [
            ...array_fill_keys(DocumentFilter::KEYS, ''),
            ...$typed,
        ]);
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
            self::get(DocumentListQuery::class)->page($this->filter(['as_of' => $day, 'kind' => 'invoice']))['rows'],
            'open',
        )[0];
        self::assertSame([10000, 6000], [$open('2026-06-09'), $open('2026-06-10')]);
    }

    public function testFiltersAreKeptPerPersonAndCleared(): void
    {
        $this->invoice(Side::Payables, '100.00', ['number' => 'KEEP-1']);
        $this->invoice(Side::Payables, '999.00', ['number' => 'OTHER-2']);
        $all = array_fill_keys(DocumentFilter::KEYS, '');
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
        self::assertTrue(str_starts_with($this->browser->getInternalResponse()->getContent(), $header));
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
        self::assertSame([12, 2300], $this->walked('/TEST/bank/register/'.$book));
        self::assertSame([2, 400], $this->walked('/TEST/deliveries'));
    }

    /** Many share a due date, a day, an amount or the beginning of a number: none is left out or shown twice. */
    public function testPagesTogetherAreTheList(): void
    {
        $this->asIfPosted(450);
        foreach (['due', 'party', 'number', 'open', 'document_date'] as $order) {
            self::assertSame([3, 450], $this->walked('/TEST/payables/items?order='.$order), $order);
        }
        self::assertSame([3, 450], $this->walked('/TEST/payables/items?as_of=6/14'), 'on a past day');
        self::assertSame([5, 450], $this->walked('/TEST/payables/documents?state=posted'));
        self::assertSame([3, 450], $this->walked('/TEST/payables/due/overdue'));
        self::assertSame([3, 450], $this->walked('/TEST/payables/due/discounts'));
        self::assertSame([1, 0], $this->walked('/TEST/payables/due/soon'));
        $first = $this->page('/TEST/payables/items')->filter('table.list tbody tr')->count();
        self::assertSame(
            $first,
            $this->page('/TEST/payables/items?after=nonsense')->filter('table.list tbody tr')->count(),
        );
        $this->db()->executeStatement('DELETE FROM item_discount');
        $this->db()->executeStatement('DELETE FROM open_item');
        $this->db()->executeStatement('DELETE FROM document');
    }

    /** @return array{int, int} pages gone through by their links, and different rows seen; a row seen twice fails */
    private function walked(string $path): array
    {
        $seen = [];
        for ($pages = 1;; ++$pages) {
            $page = $this->page($path);
            $links = $page
                ->filter('table.list tbody tr')
                ->each(static fn (Crawler $row): string => $row->attr('data-href') ?? trim($row->text()));
            self::assertSame([], array_intersect($links, $seen), 'shown again');
            array_push($seen, ...$links);
            $next = $page->filter('a[rel=next]');
            if (0 === $next->count() || $pages > 50) {
                return [$pages, \count($seen)];
            }
            $path = (string) $next->attr('href');
        }
    }

    /** Rows of invoices with their items, straight into the tables: amounts, days and due dates that many share. */
    private function asIfPosted(int $count): void
    {
        $company = $this->clerk->companyId;
        $this->db()->executeStatement(
            <<<SQL
            INSERT INTO document (company_id, side, kind, state, number, their_number, their_key, party_id, document_date,
                posting_date, due_date, currency, rate, net, tax, total, total_base, discount_base, description, bank_base,
                reference, method, approval, created_by_id, created_at)
            SELECT $company, 'payables', 'invoice', 'posted', CONCAT('MANY-', s.seq), s.seq, s.seq, p.id, '2026-06-01',
                '2026-06-01', '2026-06-08', 'USD', 1, 100, 0, 100, 100, 100, '', 0, '', '', 'none', {$this->clerk->userId}, NOW()
            FROM seq_1_to_$count s, party p
            WHERE p.company_id = $company AND p.code = 'V-1' AND p.side = 'payables'
            SQL
            ,
        );
        $this->db()->executeStatement(
            <<<SQL
            INSERT INTO open_item (company_id, side, party_id, document_id, part, kind, number, account_id, currency, original,
                original_base, open, open_base, discount_base, grace_days, document_date, posting_date, due_date, last_moved_on)
            SELECT d.company_id, d.side, d.party_id, d.id, 1, d.kind, d.number, a.id, 'USD', 100 + d.id % 3, 100 + d.id % 3,
                100 + d.id % 3, 100 + d.id % 3, 100, 0, d.document_date, d.posting_date, d.due_date, d.posting_date
            FROM document d
            JOIN account a ON a.company_id = d.company_id AND a.role = 'payables'
            SQL
            ,
        );
        $this->db()->executeStatement(
            "INSERT INTO item_discount (item_id, through, percent, amount) SELECT id, '2026-06-20', 2, 2 FROM open_item",
        );
    }
}
