<?php

declare(strict_types=1);

namespace Nelbix\Tests\House;

use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/**
 * The areas of src/ from the ground up: each knows, by class and by table, only those before it. Tables are read out of the SQL
 * itself, so a query that reaches up is found like a class that does.
 */
final class LayersTest extends TestCase
{
    /** Areas that stand side by side at the top know each other no more than those above. */
    private const AREAS = [
        ['Platform'],
        ['People'],
        ['Work'],
        ['Ledger'],
        ['Bank'],
        ['Codes'],
        ['Parties'],
        ['Books'],
        ['Goods'],
        ['Invoices'],
        ['Money'],
        ['Payables'],
        ['Receivables'],
        ['Banking'],
        ['Pairing'],
        ['Close'],
        ['Setup'],
        ['Import'],
        ['Outbox'],
        ['Today'],
        ['Command'],
    ];

    /** Tables without an entity, and who keeps them. */
    private const TABLES = [
        'number_sequence' => 'Platform',
        'setting' => 'Platform',
        'hand_in' => 'People',
        'released' => 'People',
        'attempt' => 'People',
        'done_once' => 'Platform',
        'stored_file' => 'Platform',
        'page_image' => 'Platform',
        'history_pack' => 'Platform',
        'history_packed' => 'Platform',
        'installation' => 'People',
        'presence' => 'People',
        'sign_in' => 'People',
        'personal_link' => 'People',
        'recovery_code' => 'People',
        'substitute' => 'People',
        'approved_payee' => 'Payables',
        'file_taken' => 'Import',
        'seal' => 'Close',
        'seal_head' => 'Close',
        'seal_mark' => 'Close',
        'remembered_filter' => 'Platform',
        'kept_view' => 'Platform',
        'sign_off' => 'Ledger',
        'revaluation' => 'Close',
        'year_end' => 'Close',
        'revaluation_item' => 'Close',
        'sign_off_item' => 'Close',
        'search_word' => 'Platform',
        'sessions' => 'Platform',
        'cache_items' => 'Platform',
        'job_progress' => 'Work',
        'party_bank' => 'Parties',
        'party_address' => 'Parties',
        'party_contact' => 'Parties',
        'party_stop' => 'Parties',
        'credit_release' => 'Parties',
        'prepaid_tax' => 'Books',
        'posting_lot_record' => 'Books',
        'line_template' => 'Invoices',
        'outbox' => 'Outbox',
        'reminder' => 'Receivables',
        'reminder_item' => 'Receivables',
        'promise' => 'Receivables',
        'print_job' => 'Banking',
        'statement_mapping' => 'Banking',
        'reconciliation' => 'Banking',
        'bank_file_line' => 'Banking',
    ];

    /** @return iterable<string, array{string}> */
    public static function files(): iterable
    {
        $root = \dirname(__DIR__, 2).'/src';
        foreach (new \RecursiveIteratorIterator(new \RecursiveDirectoryIterator($root)) as $file) {
            if (
                $file instanceof \SplFileInfo
                && 'php' === $file->getExtension()
                && 'Kernel.php' !== $file->getBasename()
            ) {
                yield substr($file->getPathname(), \strlen($root) + 1) => [$file->getPathname()];
            }
        }
    }

    #[DataProvider('files')]
    public function testAnAreaKnowsOnlyThoseBelowIt(string $path): void
    {
        $code = (string) file_get_contents($path);
        $area = self::areaOf($path);
        self::assertArrayHasKey($area, self::ranks(), 'an area that architecture.md does not name');
        $above = [];
        preg_match_all('/Nelbix\\\\App\\\\(\w+)\\\\(\w+)/', $code, $classes, \PREG_SET_ORDER);
        foreach ($classes as [, $other, $class]) {
            if ($other !== $area && (self::ranks()[$other] ?? 99) >= self::ranks()[$area]) {
                $above[] = $other.'\\'.$class;
            }
        }
        foreach (self::tablesIn($code) as $table) {
            $other = self::owners()[$table] ?? null;
            if (null !== $other && $other !== $area && self::ranks()[$other] >= self::ranks()[$area]) {
                $above[] = 'table '.$table.' of '.$other;
            }
        }
        self::assertSame([], array_values(array_unique($above)), $area.' reaches up');
    }

    public function testEveryTableHasAnOwner(): void
    {
        $made = [];
        foreach (glob(\dirname(__DIR__, 2).'/migrations/*.php') ?: [] as $file) {
            preg_match_all('/CREATE TABLE (?:IF NOT EXISTS )?`?([a-z_]+)/', (string) file_get_contents($file), $m);
            $made = array_merge($made, $m[1]);
        }
        self::assertSame([], array_values(array_diff(array_unique($made), array_keys(self::owners()))));
    }

    /** From the ground up, as for the areas: each folder of the core knows only those before it. */
    /** A controller translates HTTP; what it shows is asked of a query class. */
    public function testControllersHoldNoSql(): void
    {
        $found = [];
        foreach (glob(\dirname(__DIR__, 2).'/src/*/*Controller.php') ?: [] as $path) {
            $asks =
                '/->(fetch(All|One|First|Assoc|Num)\w*|execute(Query|Statement)|iterate\w+|getRepository|createQuery\w*)\(/';
            if (1 === preg_match($asks, (string) file_get_contents($path), $m)) {
                $found[] = basename($path).' '.$m[1];
            }
        }
        self::assertSame([], $found);
    }

    public function testTheCoreHasNoCircles(): void
    {
        $order = [
            'Money',
            'Calendar',
            'Terms',
            'Tax',
            'Ledger',
            'Approval',
            'OpenItems',
            'Settlement',
            'Placement',
            'Proposal',
            'Charges',
            'Matching',
            'Pairing',
            'Aging',
            'TieOut',
            'Formats',
        ];
        $root = \dirname(__DIR__, 2).'/core';
        foreach (glob($root.'/*', \GLOB_ONLYDIR) ?: [] as $folder) {
            $rank = array_search(basename($folder), $order, true);
            self::assertIsInt($rank, basename($folder).' is no folder that architecture.md names');
            foreach (new \RecursiveIteratorIterator(new \RecursiveDirectoryIterator($folder)) as $file) {
                if (!($file instanceof \SplFileInfo) || 'php' !== $file->getExtension()) {
                    continue;
                }
                preg_match_all('/Nelbix\\\\Core\\\\(\w+)\\\\/', (string) file_get_contents($file->getPathname()), $m);
                foreach (array_unique($m[1]) as $other) {
                    self::assertLessThanOrEqual(
                        $rank,
                        array_search($other, $order, true),
                        $file->getBasename().' knows '.$other,
                    );
                }
            }
        }
    }

    /** A word after FROM, JOIN, INTO or UPDATE that is the name of a table; found so in a text that breaks one of the rules. */
    public function testATableIsFoundInSql(): void
    {
        self::assertSame(
            ['document', 'party', 'open_item', 'note', 'batch'],
            self::tablesIn(
                "SELECT 1 FROM document d LEFT JOIN\n  party p ON 1; UPDATE open_item SET x; INSERT INTO note; DELETE FROM batch",
            ),
        );
    }

    /** @return list<string> */
    private static function tablesIn(string $code): array
    {
        preg_match_all('/\b(?:FROM|JOIN|INTO|UPDATE|TABLE)\s+`?([a-z_]+)\b/', $code, $m);

        return array_values(array_unique($m[1]));
    }

    private static function areaOf(string $path): string
    {
        return explode('/', substr($path, \strlen(\dirname(__DIR__, 2).'/src/')))[0];
    }

    /** @return array<string, int> */
    private static function ranks(): array
    {
        $ranks = [];
        foreach (self::AREAS as $rank => $areas) {
            foreach ($areas as $area) {
                $ranks[$area] = $rank;
            }
        }

        return $ranks;
    }

    /** @return array<string, string> area by table: where its entity lies */
    private static function owners(): array
    {
        static $owners = null;
        if (null === $owners) {
            $owners = self::TABLES;
            foreach (self::files() as [$path]) {
                if (1 === preg_match('/#\[ORM\\\\Table\(name: \'([a-z_]+)\'/', (string) file_get_contents($path), $m)) {
                    $owners[$m[1]] = self::areaOf($path);
                }
            }
        }

        return $owners;
    }

    /** The scripts are one file in the browser: a name given twice is the later one's everywhere. */
    public function testEveryNameInTheScriptsIsGivenOnce(): void
    {
        $scripts = '';
        foreach (glob(\dirname(__DIR__, 2).'/assets/js/*.js') ?: [] as $file) {
            $scripts .= file_get_contents($file)."\n";
        }
        preg_match_all('/^(?:async )?(?:function|const|let|var|class) (\w+)/m', $scripts, $m);
        self::assertGreaterThan(50, \count($m[1]));
        self::assertSame([], array_keys(array_filter(array_count_values($m[1]), static fn (int $n): bool => $n > 1)));
    }
}
