<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Import\ImportFile;
use Nelbix\App\People\User;
use Symfony\Bundle\FrameworkBundle\KernelBrowser;

/** The lists over many rows: each reads along an index, in few queries, in little memory, and sends a page and not the whole. */
final class ManyRowsTest extends CommittedCase
{
    private const ITEMS = 50_000;
    private const PARTIES = 2_000;

    /** The rows of a table that may be read without an index. */
    private const FEW = 2_500;

    /** The rows that a page of a list may read down the numbers of all companies. */
    private const PAGE = 60;

    private const LISTS = [
        'today' => '',
        'open items' => '/payables/items',
        'by vendor' => '/payables/items?order=party',
        'by number' => '/payables/items?order=number',
        'by amount' => '/payables/items?order=open',
        'by date' => '/payables/items?order=document_date',
        'overdue items' => '/payables/items?only=overdue',
        'items with a discount' => '/payables/items?only=discount',
        'items of a past day' => '/payables/items?as_of=2026-05-01',
        'documents' => '/payables/documents?state=posted',
        'held' => '/payables/documents?state=held',
        'reversed' => '/payables/documents?state=reversed',
        'drafts' => '/payables/documents?state=draft',
        'what is due' => '/payables/proposal',
        'overdue' => '/payables/due/overdue',
        'soon' => '/payables/due/soon',
        'discounts' => '/payables/due/discounts',
        'vendors' => '/payables/parties',
        'deliveries' => '/deliveries',
        'register' => '/bank/register/{book}',
        'search' => '/search?q=MANY-777',
        'search by amount' => '/search?q=777.00',
        'search by words' => '/search?q=many+party',
        'search by a bare number' => '/search?q=777',
        'search by words of texts' => '/search?q=oak7+many',
        'proposals' => '/payables/proposals',
    ];

    private KernelBrowser $browser;

    protected function setUp(): void
    {
        $this->browser = self::createClient();
        $this->browser->disableReboot();
        parent::setUp();
        $this->many();
        $user = self::get(EntityManagerInterface::class)
            ->getRepository(User::class)
            ->findOneBy(['username' => 'controller']);
        SignedIn::as($this->browser, $user ?? self::fail());
    }

    protected function tearDown(): void
    {
        // rows of a list alone are no books that could be verified
        $this->emptyAll();
        parent::tearDown();
    }

    public function testListsReadAlongAnIndexAndLittleAtATime(): void
    {
        $wrong = [];
        foreach (self::LISTS as $name => $path) {
            $path = '/'.$this->code.strtr($path, ['{book}' => (string) $this->book()]);
            $this->browser->request('GET', $path); // what a first call compiles and keeps is not the list's
            memory_reset_peak_usage();
            $before = memory_get_usage();
            $queries = self::get(QueryLog::class)->during(fn () => $this->browser->request('GET', $path));
            $memory = (memory_get_peak_usage() - $before) >> 20;
            $answer = $this->browser->getInternalResponse();
            self::assertSame(
                200,
                $answer->getStatusCode(),
                $name.': '.mb_substr(trim(strip_tags($answer->getContent())), 0, 600),
            );
            $kilobytes = \strlen($answer->getContent()) >> 10;
            $asked = \count(
                array_filter($queries, static fn (array $q): bool => str_starts_with(ltrim($q['sql']), 'SELECT')),
            );
            foreach (
                [[$memory, 24, 'MB of memory'], [$kilobytes, 400, 'kB of page'], [$asked, 15, 'queries']] as [$is, $most, $what]
            ) {
                $wrong = [...$wrong, ...$is > $most ? ["$name: $is $what, at most $most"] : []];
            }
            foreach ($queries as $query) {
                $wrong = [...$wrong, ...$this->scans($name, $query)];
            }
        }
        self::assertSame([], $wrong);
    }

    /** What posting one record asks grows with none of the tables: else a long file takes the square of its length. */
    public function testARecordOfAFileReadsAlongAnIndex(): void
    {
        [$vendor, $item] = array_map(
            'strval',
            $this->db()->fetchNumeric(
                'SELECT p.code, i.number FROM open_item i JOIN party p ON p.id = i.party_id WHERE i.open > 600 ORDER BY i.id LIMIT 1',
            ) ?:
            self::fail(),
        );
        $credit = "party,number,document_date,account,amount,kind\n$vendor,K-6,2026-06-02,5000,6.00,credit_note\n";
        self::assertSame([], self::get(ImportFile::class)->import($this->clerk, 'vendor-invoices', $credit)['errors']);
        $wrong = [];
        foreach (
            [
                'vendor-invoices' => "party,number,document_date,account,amount\nM-7,X-1,2026-06-02,5000,10.00\n",
                'payments' => "party,date,bank,reference,currency,amount,apply_to,applied\n".
                    "$vendor,2026-06-12,1000,T 1,USD,6.00,$item,6.00\n",
                'settlements' => "settlement,party,side,date,document,applied\n".
                    "1,$vendor,payables,2026-06-12,$item,6.00\n1,$vendor,payables,2026-06-12,K-6,6.00\n",
                'journal' => "entry,date,text,account,debit,credit\n1,2026-06-10,many 7,6400,5.00,\n1,2026-06-10,many 7,3000,,5.00\n",
            ] as $kind => $csv
        ) {
            $queries = self::get(QueryLog::class)->during(function () use ($kind, $csv): void {
                $result = self::get(ImportFile::class)->import($this->clerk, $kind, $csv, true);
                self::assertSame([], $result['errors'], $kind);
            });
            foreach ($queries as $query) {
                $wrong = [...$wrong, ...$this->scans($kind, $query, true)];
            }
        }
        self::assertSame([], $wrong);
    }

    /**
     * @param array{sql: string, with: list<mixed>} $query
     * @param bool $any whether many rows along an index are too many as well
     *
     * @return list<string> tables that it reads whole
     */
    private function scans(string $name, array $query, bool $any = false): array
    {
        if (1 !== preg_match('/\A\s*SELECT/', $query['sql'])) {
            return [];
        }
        $found = [];
        foreach ($this->db()->fetchAllAssociative('EXPLAIN '.$query['sql'], $query['with']) as $step) {
            $own = null !== $step['table'] && !str_starts_with((string) $step['table'], '<');
            // down the numbers of all companies: in a group the others' come first
            $all = 'index' === $step['type'] && 'PRIMARY' === $step['key'] && (int) $step['rows'] > self::PAGE;
            if (
                $own
                && ($all
                    || (($any || \in_array($step['type'], ['ALL', 'index'], true)) && (int) $step['rows'] > self::FEW))
            ) {
                $found[] = \sprintf(
                    '%s: too much of %s is read, %d rows, by %s',
                    $name,
                    $step['table'],
                    $step['rows'],
                    mb_strimwidth((string) preg_replace('/\s+/', ' ', $query['sql']), 0, 400),
                );
            }
        }

        return $found;
    }

    private function book(): int
    {
        return (int) $this->db()->fetchOne('SELECT MAX(id) FROM check_book');
    }

    /** Rows straight into the tables: four of five settled, two of five with a discount, some held. */
    private function many(): void
    {
        [$items, $parties, $company, $user] = [
            self::ITEMS,
            self::PARTIES,
            $this->clerk->companyId,
            $this->clerk->userId,
        ];
        $db = $this->db();
        $columns = array_diff($db->fetchFirstColumn('SHOW COLUMNS FROM party'), ['id', 'code', 'name']);
        $same = implode(', ', $columns);
        foreach (
            [
                <<<SQL
                INSERT INTO party (code, name, $same) SELECT CONCAT('M-', s.seq), CONCAT('Many ', s.seq), $same
                FROM seq_1_to_$parties s, party p WHERE p.company_id = $company AND p.side = 'payables' AND p.code = 'V-1'
                SQL,
                <<<SQL
                INSERT INTO document (company_id, side, kind, state, number, their_number, their_key, party_id, document_date,
                    posting_date, due_date, currency, rate, net, tax, total, total_base, discount_base, description, bank_base,
                    reference, method, approval, held_reason, created_by_id, created_at)
                SELECT $company, 'payables', 'invoice', IF(s.seq % 500 = 0, 'reversed', 'posted'), CONCAT('MANY-', s.seq), s.seq,
                    s.seq, (SELECT MIN(id) FROM party WHERE code = 'M-1') + s.seq % $parties,
                    '2026-06-01' - INTERVAL s.seq % 300 DAY, '2026-06-01' - INTERVAL s.seq % 300 DAY,
                    '2026-07-01' - INTERVAL s.seq % 300 DAY, 'USD', 1, s.seq * 100, 0, s.seq * 100, s.seq * 100, s.seq * 100, '', 0, '',
                    '', 'none', IF(s.seq % 1000 = 1, 'price', NULL), $user, NOW()
                FROM seq_1_to_$items s
                SQL,
                <<<SQL
                INSERT INTO open_item (company_id, side, party_id, document_id, part, kind, number, account_id, currency, original,
                    original_base, open, open_base, discount_base, grace_days, document_date, posting_date, due_date, last_moved_on)
                SELECT d.company_id, d.side, d.party_id, d.id, 1, d.kind, d.number, a.id, 'USD', d.total, d.total,
                    IF(d.id % 5, 0, d.total), IF(d.id % 5, 0, d.total), d.total, 0, d.document_date, d.posting_date, d.due_date,
                    d.posting_date
                FROM document d JOIN account a ON a.company_id = d.company_id AND a.role = 'payables'
                SQL,
                <<<SQL
                INSERT INTO item_discount (item_id, through, percent, amount)
                SELECT id, document_date + INTERVAL 20 DAY, 2, original DIV 50 FROM open_item WHERE id % 5 < 2
                SQL,
                <<<SQL
                INSERT INTO settlement (company_id, side, party_id, currency, settled_on, rate, document_id, exchange, created_by_id,
                    created_at)
                SELECT company_id, side, party_id, currency, posting_date, 1, id, 0, created_by_id, NOW() FROM document WHERE id % 5
                SQL,
                <<<SQL
                INSERT INTO settlement_line (settlement_id, item_id, applied, applied_base)
                SELECT s.id, i.id, i.original, i.original FROM settlement s JOIN open_item i ON i.document_id = s.document_id
                SQL,
                <<<SQL
                INSERT INTO check_book (bank_account_id, name, first_number, next_number)
                SELECT MIN(b.id), CONCAT('Many ', s.seq), 1, 6001 FROM bank_account b, seq_1_to_5 s WHERE company_id = $company
                GROUP BY s.seq
                SQL,
                <<<SQL
                INSERT INTO bank_check (check_book_id, number, state, amount, reason)
                SELECT (SELECT MAX(id) FROM check_book) - s.seq % 5, s.seq, 'skipped', 0, 'torn' FROM seq_1_to_6000 s
                SQL,
                <<<SQL
                INSERT INTO delivery (company_id, number, party_id, note_number, delivered_on, currency, rate, amount, amount_base,
                    account_id, created_by_id, created_at, reason, reversed_on)
                SELECT $company, CONCAT('GR-', s.seq), (SELECT MIN(id) FROM party), '', '2026-06-01' - INTERVAL s.seq % 90 DAY, 'USD',
                    1, 0, 0, (SELECT MIN(id) FROM account WHERE company_id = $company), $user, NOW(), '',
                    IF(s.seq % 10, '2026-06-10', NULL)
                FROM seq_1_to_6000 s
                SQL,
                <<<SQL
                INSERT INTO journal_entry (company_id, year, posting_date, currency, bypass, text, number, sequence, created_by_id,
                    created_at)
                SELECT $company, 2026, '2026-06-10', 'USD', 0, CONCAT('many ', s.seq), CONCAT('MJ-', s.seq), 100000 + s.seq, $user, NOW()
                FROM seq_1_to_6000 s
                SQL,
                <<<SQL
                INSERT INTO journal_line (entry_id, posting_date, position, account_id, amount, base, text)
                SELECT e.id, e.posting_date, l.seq, a.id, IF(l.seq = 1, e.id, -e.id), IF(l.seq = 1, e.id, -e.id), ''
                FROM journal_entry e, seq_1_to_2 l, account a
                WHERE e.number LIKE 'MJ-%' AND a.company_id = $company AND a.number = '6400'
                SQL,
                <<<SQL
                INSERT IGNORE INTO search_word (company_id, subject, word, subject_id)
                SELECT company_id, side, 'party', id FROM party
                UNION ALL SELECT company_id, side, 'many', id FROM party
                UNION ALL SELECT company_id, side, CONCAT('w', id % 400), id FROM party
                UNION ALL SELECT company_id, 'document', CONCAT('many', id % 400), id FROM document
                UNION ALL SELECT company_id, 'document', CONCAT('oak', id % 90), id FROM document
                SQL,
            ] as $sql
        ) {
            $db->executeStatement($sql);
        }
        $tables =
            'party, document, open_item, item_discount, settlement, settlement_line, bank_check, delivery, search_word, '.
            'journal_entry, journal_line';
        $db->fetchAllAssociative('ANALYZE TABLE '.$tables);
    }
}
