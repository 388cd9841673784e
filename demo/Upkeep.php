<?php

declare(strict_types=1);

namespace Nelbix\Demo;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\PostJournalEntry;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;

/** What the demo's books hold beside both ledgers, by hand: the opening balance, wages every month, tax every quarter. */
final readonly class Upkeep
{
    /** Opening balance of the bank and wages of a month, in minor units of the base currency. */
    private const OF = [
        'BOAT' => [31_000_000, 4_650_000],
        'CHAND' => [9_600_000, 1_640_000],
        'NORDIC' => [9_600_000, 480_000],
    ];

    public function __construct(
        private EntityManagerInterface $entities,
        private Acts $acts,
        private Chart $chart,
        private PostJournalEntry $postJournalEntry,
    ) {
    }

    public function plan(string $company, Actor $controller, Day $start): void
    {
        [$opening, $wages] = self::OF[$company];
        $begin = Day::of('2025-01-02');
        $this->entry($controller, $begin, 'opening balance', ['1000' => $opening, '3000' => -$opening]);
        for ($month = 1; ($day = Day::inMonth($start->year, $month, 31))->isBefore($this->acts->end); ++$month) {
            $pay = $wages + (($month * 37_019) % 140_000);
            $this->acts->on(
                $day,
                fn () => $this->entry($controller, $day, 'wages of '.$day->month.'/'.$day->year, [
                    '6600' => $pay,
                    '6610' => intdiv($pay * 153, 2000),
                    '1000' => -$pay - intdiv($pay * 153, 2000),
                ]),
            );
            if (0 === $day->month % 3) {
                $paid = $day->plusDays(20);
                $this->acts->on($paid, fn () => $this->tax($controller, $day, $paid));
            }
        }
    }

    /** What was collected less what was paid as tax through the quarter's end goes to the tax office. */
    private function tax(Actor $controller, Day $end, Day $paid): void
    {
        $of = fn (string $number): int => (int) $this->entities->getConnection()->fetchOne(
            <<<'SQL'
            SELECT COALESCE(SUM(l.base), 0)
            FROM journal_line l
            JOIN account a ON a.id = l.account_id
            WHERE a.company_id = ? AND a.number = ? AND l.posting_date <= ?
            SQL
            ,
            [$controller->companyId, $number, $end->iso()],
        );
        $settled = ['2200' => -$of('2200'), '1300' => -$of('1300')];
        $this->entry(
            $controller,
            $paid,
            \sprintf('tax of the quarter to %s', $end->long()),
            $settled + ['1000' => -array_sum($settled)],
        );
    }

    /** @param array<int|string, int> $amounts by account number; debit is positive */
    private function entry(Actor $controller, Day $day, string $text, array $amounts): void
    {
        $lines = [];
        foreach (array_filter($amounts) as $number => $minor) {
            $account = $this->chart->postable($controller->companyId, (string) $number, 'account');
            $lines[] = new DraftLine($account, $minor, $minor, $text);
        }
        if ([] !== $lines) {
            $this->postJournalEntry->post(
                $controller,
                JournalDraft::of($controller->baseCurrency, $lines),
                $day,
                $text,
            );
        }
    }
}
