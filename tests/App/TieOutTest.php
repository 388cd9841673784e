<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\TieOut\AccountTie;
use PHPUnit\Framework\Attributes\DataProvider;

/** Each reason a control account may differ for, made by hand in the tables. Source: rules.md, Tie-out. */
final class TieOutTest extends AppCase
{
    private function tie(string $day = self::DAY, string $account = '2100'): AccountTie
    {
        foreach (self::get(TieOutQuery::class)->of($this->clerk->companyId, Day::of($day)) as $row) {
            if ($row['account'] === $account) {
                return $row['tie'];
            }
        }
        self::fail('no such control account');
    }

    /** @return iterable<string, array{string, string, string, int}> breaks it, mends it, the reason, the difference */
    public static function breaks(): iterable
    {
        yield 'the item’s base is off' => [
            'UPDATE open_item SET original_base = original_base + 6000, open_base = open_base + 6000 WHERE document_id = :id',
            'UPDATE open_item SET original_base = original_base - 6000, open_base = open_base - 6000 WHERE document_id = :id',
            'item’s base amount differs from its entry',
            -6000,
        ];
        yield 'the entry is gone' => [
            'UPDATE journal_entry SET source_id = NULL WHERE source_kind = \'document\' AND source_id = :id',
            'UPDATE journal_entry SET source_id = :id WHERE source_kind = \'document\' AND source_id IS NULL',
            'entry without an item',
            0,
        ];
        yield 'the item is gone' => [
            "UPDATE open_item SET posting_date = '2026-12-31' WHERE document_id = :id",
            "UPDATE open_item SET posting_date = '2026-06-10' WHERE document_id = :id",
            'entry without an item',
            10000,
        ];
    }

    #[DataProvider('breaks')]
    public function testTheDifferenceIsExplained(string $break, string $mend, string $why, int $difference): void
    {
        $this->invoice(Side::Payables, '40.00', ['document_date' => '2026-06-01']);
        $id = $this->invoice(Side::Payables, '100.00');
        self::assertSame(
            [0, [], null],
            [$this->tie()->difference(), $this->tie()->explainedBy, $this->tie()->breakDay],
        );
        $this->db()->executeStatement($break, ['id' => $id]);
        $tie = $this->tie();
        self::assertSame($difference, $tie->difference());
        self::assertSame($difference, array_sum(array_map(static fn ($e): int => $e->amount, $tie->explainedBy)));
        self::assertContains($why, array_map(static fn ($e): string => $e->why, $tie->explainedBy));
        self::assertSame(0 === $difference ? null : '2026-06-10', $tie->breakDay);
        self::assertSame(0, $this->tie('2026-06-09')->difference(), 'the day before it tied');
        $this->db()->executeStatement($mend, ['id' => $id]);
        self::assertSame(0, $this->tie()->difference());
    }

    public function testBothColumnsArePositiveInTheOrdinaryCase(): void
    {
        $this->invoice(Side::Payables, '100.00');
        $this->invoice(Side::Receivables, '200.00');
        $this->money(Side::Receivables, 3000, [], [], self::DAY, \Nelbix\Core\Ledger\DocumentKind::Prepayment);
        $this->money(Side::Payables, 4000, [], [], self::DAY, \Nelbix\Core\Ledger\DocumentKind::Prepayment);
        foreach (['2100' => 10000, '1200' => 20000, '2150' => 3000, '1250' => 4000] as $account => $amount) {
            self::assertSame(
                [$amount, $amount],
                [$this->tie(self::DAY, (string) $account)->ledger, $this->tie(self::DAY, (string) $account)->items],
                (string) $account,
            );
        }
    }
}
