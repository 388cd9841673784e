<?php

declare(strict_types=1);

use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Setup\NewCompany\CreateCompany;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/**
 * A group of companies with so many documents over 18 months, in every state, straight into the tables: invoices and credit notes of both
 * sides, paid whole, in part, with a discount, or not; money; drafts; what is held, awaits approval, or was reversed; two currencies; with
 * items, settlements, entries, history and words for the search. What nelbix:verify checks holds for it. The last company has vendor
 * invoices only, and most of them are due and not paid.
 */
final class Group
{
    public const COMPANIES = 10;
    private const FIRST = '2025-01-01';
    private const LAST = '2026-06-15';
    private const WORDS = [
        'rope',
        'oak',
        'sail',
        'varnish',
        'anchor',
        'freight',
        'canvas',
        'bronze',
        'survey',
        'mast',
        'paint',
        'cleat',
        'rigging',
        'diesel',
        'charter',
        'mooring',
        'timber',
        'epoxy',
        'storage',
        'repair',
    ];

    /** @var array<string, int> ids from here on, by table */
    private array $next = ['document' => 0, 'settlement' => 0, 'entry' => 0];

    public function __construct(private readonly Bench $bench)
    {
    }

    /** @param Closure(string): void $tell */
    public function make(int $documents, Closure $tell): void
    {
        $this->bench->clear();
        $db = $this->bench->db;
        foreach (
            [
                "SET SESSION sql_mode = ''",
                'SET NAMES utf8mb4 COLLATE utf8mb4_unicode_ci',
                'SET FOREIGN_KEY_CHECKS = 0',
                'SET UNIQUE_CHECKS = 0',
            ] as $sql
        ) {
            $db->executeStatement($sql);
        }
        $each = intdiv($documents, self::COMPANIES);
        for ($n = 1; $n <= self::COMPANIES; ++$n) {
            $begun = microtime(true);
            $this->company(sprintf('G%02d', $n), $each, self::COMPANIES === $n);
            $tell(sprintf('company %d of %d after %.1f s', $n, self::COMPANIES, microtime(true) - $begun));
        }
        foreach (['SET UNIQUE_CHECKS = 1', 'SET FOREIGN_KEY_CHECKS = 1'] as $sql) {
            $db->executeStatement($sql);
        }
        $db->fetchAllAssociative(
            'ANALYZE TABLE document, document_line, open_item, settlement, settlement_line, journal_entry, journal_line, history, '.
                'search_word',
        );
    }

    private function company(string $code, int $documents, bool $heavy): void
    {
        $db = $this->bench->db;
        $c = $this->bench->get(CreateCompany::class)->create($code, 'Group '.$code, 'USD', Day::of(self::FIRST));
        $company = $this->bench->em->find(Company::class, $c) ?? throw new LogicException();
        $company->booksDay = Day::of(self::LAST);
        $this->bench->em->flush();
        $user = $this->bench->get(CreateCompany::class)->consoleUser();
        $actor = Actor::of($company, $user);
        $this->periods($c);
        $parties = [];
        foreach (Side::cases() as $side) {
            $parties[$side->value] = $this->parties($actor, $side, max(20, intdiv($documents, 50)));
        }
        $this->bench->em->clear();
        // of 1,000 invoices come so many documents: money, reversals
        $invoices = (int) ($documents / ($heavy ? 1.1 : 1.66));
        $this->invoices($c, $invoices, $parties, $heavy);
        $this->documents($c, $invoices, $user->id());
        $this->items($c);
        $this->entries($c, $user->id());
        $this->rest($c, $user->id());
        $db->executeStatement('DROP TABLE bench_g');
        $db->executeStatement('DROP TABLE bench_d');
        $this->next['document'] += 3 * $invoices;
        $this->next['settlement'] += $invoices;
    }

    private function periods(int $c): void
    {
        $this->bench->db->executeStatement(
            <<<'SQL'
            INSERT INTO period (company_id, year, number, first_day, last_day, ledger_locked, payables_locked, receivables_locked)
            SELECT ?, 2025 + (seq - 1) DIV 12, 1 + (seq - 1) MOD 12, '2025-01-01' + INTERVAL seq - 1 MONTH,
                LAST_DAY('2025-01-01' + INTERVAL seq - 1 MONTH), 0, 0, 0
            FROM seq_1_to_24
            WHERE NOT EXISTS (SELECT 1 FROM period p WHERE p.company_id = ? AND p.first_day = '2025-01-01' + INTERVAL seq - 1 MONTH)
            SQL
            ,
            [$c, $c],
        );
    }

    /** @return array{int, int} the first id and how many */
    private function parties(Actor $actor, Side $side, int $count): array
    {
        $payables = Side::Payables === $side;
        $one = $this->bench
            ->get(SaveParty::class)
            ->save($actor, $side, [
                'code' => sprintf('%s-00001', $payables ? 'V' : 'C'),
                'name' => ($payables ? 'Vendor' : 'Customer').' 1',
                'terms' => '2-10-N30',
                'default_account' => $payables ? '5000' : '4000',
            ])
            ->id();
        $db = $this->bench->db;
        $columns = array_diff(
            $db->fetchFirstColumn(
                "SELECT column_name FROM information_schema.columns WHERE table_schema = DATABASE() AND table_name = 'party'",
            ),
            ['id', 'code', 'name'],
        );
        $columns = implode(', ', $columns);
        $db->executeStatement(
            <<<SQL
            INSERT INTO party (id, code, name, $columns)
            SELECT $one + seq - 1, CONCAT(LEFT(code, 2), LPAD(seq, 5, '0')), REPLACE(name, ' 1', CONCAT(' ', seq)), $columns
            FROM party JOIN seq_2_to_$count
            WHERE id = $one
            SQL
            ,
        );
        $db->executeStatement(
            <<<SQL
            INSERT IGNORE INTO search_word (company_id, subject, subject_id, word)
            SELECT company_id, side, p.id, IF(w.n = 1, LOWER(SUBSTRING_INDEX(name, ' ', 1)), SUBSTRING_INDEX(name, ' ', -1))
            FROM party p JOIN (SELECT 1 AS n UNION ALL SELECT 2) w
            WHERE p.id > $one AND p.company_id = {$actor->companyId}
            SQL
            ,
        );

        return [$one, $count];
    }

    /**
     * What becomes of each invoice, as fate: 0 draft, 1 held, 2 awaits approval, 3 reversed, 4 credit note, 5 paid in part, 6 with a
     * discount, 7 whole, 8 open.
     *
     * @param array<string, array{int, int}> $parties
     */
    private function invoices(int $c, int $count, array $parties, bool $heavy): void
    {
        $db = $this->bench->db;
        [$first, $last] = [self::FIRST, self::LAST];
        $days = Day::of($first)->daysUntil(Day::of($last)) + 1;
        [[$vendor, $vendors], [$customer, $customers]] = [$parties['payables'], $parties['receivables']];
        $side = $heavy ? "'payables'" : "IF(seq % 2, 'payables', 'receivables')";
        $paid = $heavy ? 12 : 37;
        $db->executeStatement('DROP TABLE IF EXISTS bench_g');
        $db->executeStatement(
            <<<SQL
            CREATE TABLE bench_g (n INT PRIMARY KEY) COLLATE utf8mb4_unicode_ci
            SELECT g.*, IF(currency = 'EUR', total DIV 4 * 5, total) AS base,
                CASE WHEN fate NOT IN (5, 6, 7) THEN 0 WHEN fate = 5 THEN total DIV 2 WHEN fate = 6 THEN total - total DIV 50 ELSE total END
                    AS pays,
                IF(fate = 6, total DIV 50, 0) AS discount
            FROM (
                SELECT seq AS n, $side AS side,
                    IF($side = 'payables', $vendor + (seq * 7919) % $vendors, $customer + (seq * 7919) % $customers) AS party,
                    '$first' + INTERVAL (seq - 1) * $days DIV $count DAY AS posted,
                    '$first' + INTERVAL (seq - 1) * $days DIV $count + 30 DAY AS due,
                    IF(seq % 20 = 3, 'EUR', 'USD') AS currency, IF(seq % 20 = 3, 1.25, 1) AS rate,
                    200 * (20 + CRC32(seq) % 4000) AS total,
                    '$first' + INTERVAL (seq - 1) * $days DIV $count + 20 + CRC32(seq * 3) % 41 DAY AS paid_on,
                    CASE WHEN (seq DIV 2) % 50 < 4 AND NOT ((seq DIV 2) % 50 IN (1, 2) AND $side = 'receivables') THEN (seq DIV 2) % 50
                        WHEN (seq DIV 2) % 50 IN (4, 5) THEN 4
                        WHEN '$first' + INTERVAL (seq - 1) * $days DIV $count + 20 + CRC32(seq * 3) % 41 DAY > '$last' THEN 8
                        WHEN (seq DIV 2) % 50 IN (6, 7) THEN 5
                        WHEN (seq DIV 2) % 50 = 8 THEN 6
                        WHEN (seq DIV 2) % 50 < $paid THEN 7
                        ELSE 8 END AS fate
                FROM seq_1_to_$count
            ) g
            SQL
            ,
        );
    }

    private function documents(int $c, int $count, int $user): void
    {
        $db = $this->bench->db;
        $off = $this->next['document'];
        $last = self::LAST;
        $words = implode(', ', array_map(static fn (string $w): string => "'$w'", self::WORDS));
        $number = count(self::WORDS);
        $db->executeStatement('DROP TABLE IF EXISTS bench_d');
        $db->executeStatement(
            <<<SQL
            CREATE TABLE bench_d (id INT PRIMARY KEY) COLLATE utf8mb4_unicode_ci
            SELECT d.*, IF(state = 'draft', NULL, CONCAT(prefix, '-', DATE_FORMAT(posted, '%y'), '-',
                LPAD(ROW_NUMBER() OVER (PARTITION BY prefix, YEAR(posted), state = 'draft' ORDER BY posted, id), 5, '0'))) AS number
            FROM (
                SELECT $off + n AS id, n, 'invoice' AS role, side, IF(fate = 4, 'credit_note', 'invoice') AS kind,
                    ELT(1 + (fate = 0) + 2 * (fate = 3), 'posted', 'draft', 'reversed') AS state,
                    CONCAT(IF(side = 'payables', 'V', 'C'), IF(fate = 4, 'C', 'I')) AS prefix,
                    party, posted, due, currency, rate, total, base, fate, discount,
                    CONCAT(ELT(1 + n % $number, $words), ' lot', n) AS description
                FROM bench_g
                UNION ALL
                SELECT $off + $count + n, n, 'money', side, IF(side = 'payables', 'payment', 'receipt'), 'posted',
                    IF(side = 'payables', 'PY', 'RC'), party, paid_on, paid_on, currency, rate, pays,
                    IF(currency = 'EUR', pays DIV 4 * 5, pays), fate, discount, ''
                FROM bench_g
                WHERE pays > 0
                UNION ALL
                SELECT $off + 2 * $count + n, n, 'reversal', side, 'invoice', 'reversed', CONCAT(IF(side = 'payables', 'V', 'C'), 'I'),
                    party, LEAST(posted + INTERVAL 5 DAY, '$last'), LEAST(posted + INTERVAL 5 DAY, '$last'), currency, rate, total, base,
                    fate, 0, ''
                FROM bench_g
                WHERE fate = 3
            ) d
            SQL
            ,
        );
        $db->executeStatement(
            <<<SQL
            INSERT INTO document (id, company_id, side, kind, state, number, live_number, their_number, their_key, live_key, party_id,
                document_date, posting_date, due_date, currency, rate, net, tax, total, total_base, discount_base, description,
                bank_account_id, bank_base, bank_amount, reference, method, held_reason, approval, reverses_id, reversed_by_id,
                draft_input, created_by_id, created_at, posted_at, version, taken_back)
            SELECT d.id, $c, side, kind, state, number, IF(state = 'posted', number, NULL),
                IF(side = 'payables' AND role = 'invoice', CONCAT('T-', n), ''),
                IF(side = 'payables' AND role = 'invoice', CONCAT('T', n), ''),
                IF(side = 'payables' AND role = 'invoice' AND state = 'posted', CONCAT('T-', n), NULL), party,
                IF(role = 'reversal', posted - INTERVAL 5 DAY, posted), posted, due, currency, rate,
                IF(role = 'reversal', -1, 1) * total, 0, IF(role = 'reversal', -1, 1) * total, IF(role = 'reversal', -1, 1) * base,
                0, description, IF(role = 'money', b.id, NULL), IF(role = 'money', base, 0),
                IF(role = 'money' AND currency <> 'USD', base, 0), '', IF(role = 'money', 'transfer', ''),
                IF(role = 'invoice' AND fate = 1, 'the count is looked into', NULL),
                IF(role = 'invoice' AND fate = 2, 'awaiting', 'none'),
                IF(role = 'reversal', $off + n, NULL), IF(role = 'invoice' AND fate = 3, $off + 2 * $count + n, NULL),
                IF(state = 'draft', JSON_OBJECT('party', (SELECT p.code FROM party p WHERE p.id = d.party), 'number', CONCAT('T-', n),
                    'document_date', posted, 'lines', JSON_ARRAY(JSON_OBJECT('account', IF(side = 'payables', '5000', '4000'),
                    'amount', total / 100))), NULL),
                $user, CONCAT(posted, ' 08:00:00'), IF(state = 'draft', NULL, CONCAT(posted, ' 08:00:00')), 1,
                IF(role = 'invoice' AND fate = 3, 'reversed', '')
            FROM bench_d d
            JOIN (SELECT MIN(id) AS id FROM bank_account WHERE company_id = $c) b
            ORDER BY d.id
            SQL
            ,
        );
        foreach (['payables' => '5000', 'receivables' => '4000'] as $side => $account) {
            $db->executeStatement(
                <<<SQL
                INSERT INTO document_line (document_id, position, account_id, amount, net, text)
                SELECT d.id, 1, a.id, d.total, d.total, description
                FROM bench_d d JOIN account a ON a.company_id = $c AND a.number = '$account'
                WHERE d.role = 'invoice' AND d.state <> 'draft' AND d.side = '$side'
                SQL
                ,
            );
        }
    }

    private function items(int $c): void
    {
        $db = $this->bench->db;
        $settlement = $this->next['settlement'];
        $off = $this->next['document'];
        // what is left open: nothing of what was reversed or paid whole, half of what was paid in part
        $left =
            "CASE WHEN d.role <> 'invoice' OR d.fate IN (3, 6, 7) THEN 0 WHEN d.fate = 5 THEN %1\$s - %1\$s DIV 2 ELSE %1\$s END";
        [$open, $openBase] = [sprintf($left, 'd.total'), sprintf($left, 'd.base')];
        $sign = "IF(d.role = 'invoice' AND d.kind <> 'credit_note', 1, -1)";
        $db->executeStatement(
            <<<SQL
            INSERT INTO open_item (id, company_id, side, party_id, document_id, part, kind, number, account_id, currency, original,
                original_base, open, open_base, discount_base, grace_days, document_date, posting_date, due_date, last_moved_on)
            SELECT d.id, $c, d.side, d.party, d.id, 1, d.kind, d.number, a.id, d.currency, $sign * d.total, $sign * d.base,
                $sign * ($open), $sign * ($openBase), 0, 0, IF(d.role = 'reversal', d.posted - INTERVAL 5 DAY, d.posted), d.posted, d.due,
                GREATEST(d.posted, COALESCE(m.posted, d.posted))
            FROM bench_d d
            JOIN account a ON a.company_id = $c AND a.role = d.side
            LEFT JOIN bench_d m ON d.role = 'invoice' AND m.n = d.n AND m.role <> 'invoice' AND m.id = IF(d.fate = 3, d.id +
                (SELECT 2 * COUNT(*)
                FROM bench_g), d.id + (SELECT COUNT(*) FROM bench_g))
            WHERE d.state <> 'draft'
            ORDER BY d.id
            SQL
            ,
        );
        $db->executeStatement(
            <<<SQL
            INSERT INTO settlement (id, company_id, side, party_id, currency, settled_on, rate, document_id, exchange, created_by_id,
                created_at)
            SELECT $settlement + n, $c, side, party, currency, posted, rate, id, 0, 1, CONCAT(posted, ' 08:00:00')
            FROM bench_d
            WHERE role <> 'invoice'
            SQL
            ,
        );
        $base = "IF(d.currency = 'EUR', d.discount DIV 4 * 5, d.discount)";
        $db->executeStatement(
            <<<SQL
            INSERT INTO settlement_line (settlement_id, item_id, applied, applied_base)
            SELECT $settlement + d.n, IF(k.n = 1, $off + d.n, d.id), IF(k.n = 1, d.total + d.discount, -d.total),
                IF(k.n = 1, d.base + $base, -d.base)
            FROM bench_d d JOIN (SELECT 1 AS n UNION ALL SELECT 2) k
            WHERE d.role <> 'invoice'
            ORDER BY d.n, k.n
            SQL
            ,
        );
        foreach (['payables' => 'discounts_received', 'receivables' => 'discounts_allowed'] as $side => $role) {
            $db->executeStatement(
                <<<SQL
                INSERT INTO settlement_adjustment (settlement_id, item_id, kind, amount, amount_base, account_id)
                SELECT $settlement + d.n, $off + d.n, 'discount', -d.discount, -$base, a.id
                FROM bench_d d JOIN account a ON a.company_id = $c AND a.role = '$role'
                WHERE d.role = 'money' AND d.discount > 0 AND d.side = '$side'
                SQL
                ,
            );
        }
    }

    private function entries(int $c, int $user): void
    {
        $db = $this->bench->db;
        [$off, $settlement, $entry] = [$this->next['document'], $this->next['settlement'], $this->next['entry']];
        $db->executeStatement('DROP TABLE IF EXISTS bench_e');
        $db->executeStatement(
            <<<SQL
            CREATE TABLE bench_e (id INT PRIMARY KEY, KEY (source_kind, source_id)) COLLATE utf8mb4_unicode_ci
            SELECT $entry + ROW_NUMBER() OVER (ORDER BY posted, source_kind, source_id) AS id,
                ROW_NUMBER() OVER (PARTITION BY YEAR(posted) ORDER BY posted, source_kind, source_id) AS sequence, x.*
            FROM (
                SELECT 'document' AS source_kind, id AS source_id, posted, currency, number AS text, n, role FROM bench_d
                WHERE state <> 'draft'
                UNION ALL
                SELECT 'settlement', $settlement + n, posted, currency, CONCAT(number, ' settlement'), n, 'discount' FROM bench_d
                WHERE role = 'money' AND discount > 0
            ) x
            SQL
            ,
        );
        $db->executeStatement(
            <<<SQL
            INSERT INTO journal_entry (id, company_id, number, year, sequence, posting_date, currency, text, reverses_id, bypass,
                created_by_id, created_at, source_kind, source_id)
            SELECT e.id, $c, CONCAT('JE-', DATE_FORMAT(e.posted, '%y'), '-', LPAD(e.sequence, 5, '0')), YEAR(e.posted), e.sequence,
                e.posted,
                e.currency, e.text, o.id, 0, $user, CONCAT(e.posted, ' 08:00:00'), e.source_kind, e.source_id
            FROM bench_e e
            LEFT JOIN bench_e o ON e.role = 'reversal' AND o.source_kind = 'document' AND o.source_id = $off + e.n
            ORDER BY e.id
            SQL
            ,
        );
        // the control account with the party, then the other side; + debits
        $control = "IF(d.side = 'receivables', 1, -1) * IF(d.role = 'invoice' AND d.kind <> 'credit_note', 1, -1)";
        $other = "CASE WHEN d.role = 'money' THEN '1000' WHEN d.side = 'payables' THEN '5000' ELSE '4000' END";
        $discount = "IF(d.currency = 'EUR', d.discount DIV 4 * 5, d.discount)";
        foreach (
            [
                [1, 'a.role = d.side', $control, 'd.base', 'd.total', 'd.party', "e.source_kind = 'document'"],
                [2, "a.number = $other", "-1 * $control", 'd.base', 'd.total', 'NULL', "e.source_kind = 'document'"],
                [1, 'a.role = d.side', $control, $discount, 'd.discount', 'd.party', "e.source_kind = 'settlement'"],
                [
                    2,
                    "a.role = IF(d.side = 'payables', 'discounts_received', 'discounts_allowed')",
                    "-1 * $control",
                    $discount,
                    'd.discount',
                    'NULL',
                    "e.source_kind = 'settlement'",
                ],
            ] as [$position, $account, $sign, $base, $amount, $party, $which]
        ) {
            $of = str_contains($which, 'settlement') ? "d.role = 'money' AND d.n = e.n" : 'd.id = e.source_id';
            $db->executeStatement(
                <<<SQL
                INSERT INTO journal_line (entry_id, position, account_id, posting_date, base, amount, text, party_id)
                SELECT e.id, $position, a.id, e.posted, $sign * ($base), $sign * ($amount), d.description, $party
                FROM bench_e e
                JOIN bench_d d ON $of
                JOIN account a ON a.company_id = $c AND $account
                WHERE $which
                ORDER BY e.id
                SQL
                ,
            );
        }
        $this->next['entry'] += (int) $db->fetchOne('SELECT COUNT(*) FROM bench_e');
        $db->executeStatement('DROP TABLE bench_e');
    }

    /** What was done when, words to find it by, the next numbers. */
    private function rest(int $c, int $user): void
    {
        $db = $this->bench->db;
        $db->executeStatement(
            <<<SQL
            INSERT INTO history (company_id, subject, subject_id, action, detail, user_id, happened_at)
            SELECT $c, 'document', id, ELT(1 + (state = 'draft') + 2 * (role = 'reversal'), 'posted', 'draft saved', 'reversed'),
                CONCAT(total / 100, ' ', currency), $user, CONCAT(posted, ' 08:00:00')
            FROM bench_d
            ORDER BY posted, id
            SQL
            ,
        );
        $db->executeStatement(
            <<<SQL
            INSERT IGNORE INTO search_word (company_id, subject, subject_id, word)
            SELECT $c, 'document', id, SUBSTRING_INDEX(description, ' ', 1) AS word FROM bench_d WHERE description <> ''
            UNION ALL
            SELECT $c, 'document', id, SUBSTRING_INDEX(description, ' ', -1) FROM bench_d WHERE description <> ''
            ORDER BY 4, 3
            SQL
            ,
        );
        $db->executeStatement(
            <<<SQL
            REPLACE INTO number_sequence (company_id, name, next_value)
            SELECT $c, CONCAT(prefix, '-', YEAR(posted)), COUNT(*) + 1 FROM bench_d WHERE state <> 'draft' GROUP BY prefix, YEAR(posted)
            UNION ALL
            SELECT $c, CONCAT('JE-', year), COUNT(*) + 1 FROM journal_entry WHERE company_id = $c GROUP BY year
            SQL
            ,
        );
    }
}
