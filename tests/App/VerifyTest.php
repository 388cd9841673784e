<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Close\Verify;
use Nelbix\App\Command\VerifyApart;
use Nelbix\App\Money\MoneyInput;
use Nelbix\App\Money\PostMoney;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;

/** Whoever alters a row of the books behind Nelbix's back is found by what must always hold. */
final class VerifyTest extends AppCase
{
    /** @return list<string> */
    private function findings(): array
    {
        return array_merge(...array_values(self::get(Verify::class)->of($this->clerk->companyId)));
    }

    /** Books with a little of everything: tax, instalments, another currency, discount, exchange difference, undo, reversal. */
    private function books(): void
    {
        $lines = [
            ['account' => '5000', 'amount' => '600.00', 'tax_code' => 'P8'],
            ['account' => '5200', 'amount' => '400.00', 'tax_code' => ''],
        ];
        $this->invoice(Side::Payables, '', ['lines' => $lines]);
        $eur = $this->itemOf(
            $this->invoice(Side::Receivables, '1000.00', [
                'currency' => 'EUR',
                'rate' => '1.10',
                'document_date' => '2026-06-10',
            ]),
        );
        self::get(PostMoney::class)->post(
            $this->clerk,
            new MoneyInput(
                Side::Receivables,
                DocumentKind::Receipt,
                (int) $this->db()->fetchOne("SELECT id FROM party WHERE code = 'C-1'"),
                (int) $this->db()->fetchOne("SELECT id FROM bank_account WHERE code = '1000'"),
                Day::of(self::DAY),
                'EUR',
                98000,
                placements: [new PlacementRequest($eur, 100000)],
                adjustments: [new AdjustmentRequest($eur, AdjustmentKind::Discount, -2000)],
                rate: BigDecimal::of('1.08'),
            ),
        );
        $undone = $this->itemOf($this->invoice(Side::Receivables, '50.00'));
        $this->money(Side::Receivables, 5000, [new PlacementRequest($undone, 5000)]);
        self::get(UndoSettlement::class)->undo(
            $this->clerk,
            (int) $this->db()->fetchOne('SELECT MAX(id) FROM settlement'),
        );
        self::get(ReverseDocument::class)->reverse($this->clerk, $this->invoice(Side::Payables, '70.00'), 'twice');
    }

    /** @return iterable<string, string> an alteration, taken back by a savepoint */
    private static function alterations(): iterable
    {
        $invoice = "(SELECT id FROM (SELECT MIN(id) AS id FROM document WHERE side = 'payables') x)";
        $line = "(SELECT id FROM (SELECT MIN(l.id) AS id FROM journal_line l JOIN account a ON a.id = l.account_id
            WHERE a.number = '%s') x)";
        $settled = '(SELECT id FROM (SELECT MIN(id) AS id FROM settlement) x)';
        $plus = static fn (
            string $table,
            string $column,
            string $where,
        ): string => "UPDATE $table SET $column = $column + 1 WHERE $where";
        $day = static fn (
            string $table,
            string $column,
            string $where,
        ): string => "UPDATE $table SET $column = $column + INTERVAL 1 DAY WHERE $where";
        foreach (['net', 'tax', 'total', 'total_base'] as $column) {
            yield 'document '.$column => $plus('document', $column, 'id = '.$invoice);
        }
        yield 'document due date' => $day('document', 'due_date', 'id = '.$invoice);
        yield 'document posting date' => $day('document', 'posting_date', 'id = '.$invoice);
        yield 'document rate' => "UPDATE document SET rate = 1.2 WHERE currency = 'EUR' AND kind = 'invoice'";
        yield 'document line net' => $plus('document_line', 'net', 'document_id = '.$invoice.' AND position = 1');
        yield 'document tax' => $plus('document_tax', 'tax', 'document_id = '.$invoice);
        yield 'item due date' => $day('open_item', 'due_date', 'document_id = '.$invoice);
        yield 'item posting date' => $day('open_item', 'posting_date', 'document_id = '.$invoice);
        yield 'item last moved on' => $day('open_item', 'last_moved_on', 'document_id = '.$invoice);
        yield 'item raised in currency without base' => <<<'SQL'
        UPDATE open_item
        SET original = original + 1, open = open + 1
        WHERE document_id =

        SQL
        .$invoice;
        yield 'item raised in base too' => <<<'SQL'
        UPDATE open_item
        SET original = original + 1, open = open + 1, original_base = original_base + 1, open_base = open_base + 1
        WHERE document_id =

        SQL
        .$invoice;
        foreach (['base', 'amount'] as $column) {
            yield 'ledger line '.$column => $plus('journal_line', $column, 'id = '.\sprintf($line, '2100'));
        }
        yield 'ledger line posting date' => $day('journal_line', 'posting_date', 'id = '.\sprintf($line, '5000'));
        yield 'entry date with its lines' => <<<'SQL'
        UPDATE journal_entry e
        JOIN journal_line l ON l.entry_id = e.id
        SET e.posting_date = e.posting_date + INTERVAL 1 DAY, l.posting_date = l.posting_date + INTERVAL 1 DAY
        WHERE e.source_kind = 'settlement' AND e.source_id =

        SQL
        .$settled;
        foreach (['5000' => '5200', '2100' => '2200', '4000' => '4100', '1300' => '2200'] as $from => $to) {
            yield "ledger line from account $from to $to" => <<<SQL
            UPDATE journal_line
            SET account_id = (SELECT id FROM account WHERE number = '$to')
            WHERE id =

            SQL
            .\sprintf($line, $from);
        }
        yield 'party of a ledger line' => 'UPDATE journal_line SET party_id = (SELECT MAX(id) FROM party) WHERE id = '.
            \sprintf($line, '2100');
        yield 'settlement date' => $day('settlement', 'settled_on', 'id = '.$settled);
        yield 'settlement exchange' => $plus('settlement', 'exchange', 'id = '.$settled);
        yield 'applied base' => $plus('settlement_line', 'applied_base', 'settlement_id = '.$settled.' LIMIT 1');
        yield 'adjustment amount' => $plus('settlement_adjustment', 'amount', 'settlement_id = '.$settled);
        yield 'adjustment base' => $plus('settlement_adjustment', 'amount_base', 'settlement_id = '.$settled);
        yield 'undone on' => $day('settlement', 'undone_on', 'undone_on IS NOT NULL');
    }

    public function testEveryKindOfAlteredRowIsFound(): void
    {
        $this->books();
        self::assertSame([], $this->findings());
        $missed = [];
        foreach (self::alterations() as $what => $alter) {
            $this->db()->executeStatement('SAVEPOINT altered');
            self::assertGreaterThan(0, $this->db()->executeStatement($alter), $what.' touches a row');
            if ([] === $this->findings()) {
                $missed[] = $what;
            }
            $this->db()->executeStatement('ROLLBACK TO SAVEPOINT altered');
        }
        self::assertSame([], $missed);
        self::assertSame([], $this->findings());
    }

    /** Of what is verified apart, a process that breaks off is never taken for books that hold. */
    public function testAProcessThatBreaksOffIsSaid(): void
    {
        $root = sys_get_temp_dir().'/nelbix-apart-'.bin2hex(random_bytes(4));
        mkdir($root.'/bin', 0o700, true);
        // the second company's process ends well and says only a part
        file_put_contents(
            $root.'/bin/console',
            "<?php fwrite(STDERR, 'half way'); echo str_contains(implode(' ', \$argv), '=TWO') ? '[{}]' : 'Out of memory'; exit(0);",
        );
        $rows = (new VerifyApart($root))->of(['ONE', 'TWO', '33'], 2, static fn (string $line): null => null);
        unlink($root.'/bin/console');
        rmdir($root.'/bin');
        rmdir($root);
        self::assertSame(
            [['ONE', 'NO'], ['TWO', 'NO'], ['33', 'NO']],
            array_map(static fn (array $r): array => [$r['company'], $r['holds']], $rows),
        );
        self::assertStringContainsString('Out of memory', $rows[0]['found'][0]);
    }
}
