<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Close\Journal\DecideManualEntry;
use Nelbix\App\Close\Journal\ReverseManualEntry;
use Nelbix\App\Goods\ClearReceived;
use Nelbix\App\Goods\ReverseDelivery;
use Nelbix\App\Goods\SendGoodsBack;
use Nelbix\App\Ledger\LockPeriod;
use Nelbix\App\Money\MakeDeposit;
use Nelbix\App\Money\OnHandQuery;
use Nelbix\App\Work\Worker;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use PHPUnit\Framework\Attributes\DataProvider;

/** Long files of every kind that is no invoice: in slices of ten, waiting until all are there, gone on with, taken back without a trace. */
final class LotKindsTest extends LotCase
{
    use LongFiles;

    /** @return iterable<string, array{string, string}> kind of file, and what the page calls its records */
    public static function kinds(): iterable
    {
        yield 'receipts' => ['receipts', 'documents'];
        yield 'payments' => ['payments', 'documents'];
        yield 'settlements' => ['settlements', 'settlements'];
        yield 'entries' => ['journal', 'entries'];
        yield 'deliveries' => ['deliveries', 'deliveries'];
    }

    #[DataProvider('kinds')]
    public function testAPartWaitsIsTakenBackAndTheFileComesAgain(string $kind, string $word): void
    {
        $csv = $this->file($kind);
        $before = $this->books();
        $this->taken($csv, $kind);
        $worker = self::get(Worker::class);
        $worker->next();
        self::assertSame([0, 'under_way'], $this->lot());
        self::assertSame($before, $this->books(), 'the check keeps nothing');
        $worker->next();
        $worker->next();
        self::assertSame([20, 'under_way'], $this->lot());
        $this->everyDoorIsShut($kind);
        $at = '/TEST/import/lot/'.$this->lotId();
        $page = $this->page($at)->filter('main')->text();
        self::assertStringContainsString("20 of 64 $word are posted and wait", $page);
        self::assertSame('documents' === $word ? 0 : 20, $this->page($at)->filter('table.list tbody tr')->count());
        self::assertSame(
            'settlements' === $kind || 'journal' === $kind,
            str_contains($this->page('/TEST')->text(), '1 ledger file is not through'),
        );

        $this->post($at, $at.'/take-back', ['reason' => 'the wrong month']);
        while ($worker->next()) {
        }
        self::assertSame(
            [20, 'taken_back'],
            $this->lot(),
            (string) $this->db()->fetchOne('SELECT said FROM job ORDER BY id DESC LIMIT 1'),
        );
        self::assertSame($before, $this->books(), 'as if it had never come');
        self::assertSame(
            20,
            (int) $this->db()->fetchOne(
                "SELECT COUNT(DISTINCT subject, subject_id) FROM history WHERE detail LIKE '%the wrong month%' AND subject <> 'lot'",
            ),
            'each says why in the words that were typed',
        );

        $this->taken($csv, $kind);
        while ($worker->next()) {
        }
        self::assertSame([self::RECORDS, 'released'], $this->lot());
        self::assertSame('done', self::said(fn () => $this->takesOne($kind)), 'all of it is free');
    }

    #[DataProvider('kinds')]
    public function testWhatStopsInTheMiddleIsGoneOnWith(string $kind): void
    {
        $file = $this->taken($this->file($kind), $kind);
        $worker = self::get(Worker::class);
        $worker->next();
        $worker->next();
        $this->lock(true);
        $worker->next();
        self::assertSame([10, 'under_way'], $this->lot());
        $entries = (int) $this->db()->fetchOne('SELECT COUNT(*) FROM journal_entry');
        self::assertFalse($worker->next());
        $this->browser->request('GET', '/TEST/import/file/'.$file);
        $page = $this->browser->followRedirect()->filter('main')->text();
        self::assertStringContainsString('is locked', $page);
        self::assertMatchesRegularExpression('/10 of 64 \w+ are posted and wait\. Mend what stops it/', $page);
        self::assertSame(
            $entries,
            (int) $this->db()->fetchOne('SELECT COUNT(*) FROM journal_entry'),
            'nothing is half there',
        );
        $this->lock(false);
        $at = '/TEST/import/lot/'.$this->lotId();
        $this->post($at, $at.'/go-on', []);
        while ($worker->next()) {
        }
        self::assertSame([self::RECORDS, 'released'], $this->lot());
    }

    /** What is approved by whoever runs the machine is so to the end; from the page an entry above the limit waits, and is dropped. */
    public function testEntriesAboveTheLimitWaitAndAreDropped(): void
    {
        $this->taken(
            str_replace([',5.03,', ',,5.03'], [',50000.00,', ',,50000.00'], $this->file('journal')),
            'journal',
        );
        $worker = self::get(Worker::class);
        $worker->next();
        $worker->next();
        $id = (int) $this->db()->fetchOne("SELECT id FROM manual_entry WHERE state = 'waiting'");
        $version = (int) $this->db()->fetchOne('SELECT version FROM manual_entry WHERE id = ?', [$id]);
        $decide = self::get(DecideManualEntry::class);
        foreach (
            [
                fn () => $decide->sendBack($this->approver, $id, $version, 'no'),
                fn () => $decide->drop($this->clerk, $id, $version),
            ] as $door
        ) {
            self::assertMatchesRegularExpression('/came with import \d+, which is not through/', self::said($door));
        }
        $at = '/TEST/import/lot/'.$this->lotId();
        self::assertStringContainsString('not posted', $this->page($at)->filter('table.list')->text());
        $this->post($at, $at.'/take-back', ['reason' => 'the wrong month']);
        while ($worker->next()) {
        }
        self::assertSame([10, 'taken_back'], $this->lot());
        self::assertSame('dropped', $this->db()->fetchOne('SELECT state FROM manual_entry WHERE id = ?', [$id]));
    }

    /** A record that the check could not see wrong: two take the same item. It stops with its line, and is taken back whole. */
    public function testTheSamePaidTwiceMeanwhile(): void
    {
        $this->taken($this->file('payments'), 'payments');
        $worker = self::get(Worker::class);
        $worker->next();
        $worker->next();
        $item = (int) $this->db()->fetchOne(
            "SELECT i.id FROM open_item i JOIN document d ON d.id = i.document_id WHERE d.their_number = 'P-33'",
        );
        $this->money(Side::Payables, 5000, [new PlacementRequest($item, 5000)], kind: DocumentKind::Payment);
        while ($worker->next()) {
        }
        self::assertSame([30, 'under_way'], $this->lot());
        $at = '/TEST/import/lot/'.$this->lotId();
        $page = $this->page($at)->filter('main')->text();
        self::assertStringContainsString('Line 34, applied', $page);
        self::assertStringContainsString('30 of 64 documents are posted and wait', $page);
    }

    /** Who may take payments over goes on with no file of entries under that name. */
    public function testAFileIsGoneOnWithAsWhatItWasBegun(): void
    {
        $file = $this->taken($this->file('journal'), 'journal');
        $worker = self::get(Worker::class);
        $worker->next();
        $worker->next();
        $this->lock(true);
        $worker->next();
        $this->lock(false);
        $this->post('/TEST/import', '/TEST/import/take', ['kind' => 'payments', 'file' => $file]);
        while ($worker->next()) {
        }
        self::assertSame([10, 'under_way'], $this->lot());
        self::assertSame(
            'june.csv was begun as journal entries.',
            $this->db()->fetchOne('SELECT said FROM job ORDER BY id DESC LIMIT 1'),
        );
    }

    /** An invoice whose goods came with a lot is held again, and waits for them again, once it is taken back. */
    public function testInvoicesWaitAgainForGoodsThatAreTakenBack(): void
    {
        $csv = $this->file('deliveries');
        $line = (string) $this->db()->fetchOne('SELECT MAX(id) FROM purchase_order_line');
        $invoice = $this->invoice(Side::Payables, '', [
            'lines' => [['account' => '1400', 'amount' => '100 × 0.25', 'text' => 'oak', 'order_line' => $line]],
        ]);
        $held = fn (): bool => null !==
            $this->db()->fetchOne('SELECT held_reason FROM document WHERE id = ?', [$invoice]);
        $before = $this->books();
        self::assertTrue($held());
        $this->taken($csv, 'deliveries');
        $worker = self::get(Worker::class);
        $worker->next();
        $worker->next();
        $worker->next();
        self::assertSame([20, 'under_way'], $this->lot());
        self::assertFalse($held());
        $at = '/TEST/import/lot/'.$this->lotId();
        $this->post($at, $at.'/take-back', ['reason' => 'the wrong month']);
        while ($worker->next()) {
        }
        self::assertSame([20, 'taken_back'], $this->lot());
        self::assertSame($before, $this->books());
        self::assertTrue($held());
    }

    /** @return list<array<string, mixed>> balances, what is open of what there was before, and what is still to come of orders */
    private function books(): array
    {
        return $this->db()->fetchAllAssociative(
            <<<'SQL'
            SELECT CONCAT('account ', a.number) AS what, SUM(l.base) AS amount
            FROM journal_line l
            JOIN account a ON a.id = l.account_id
            GROUP BY a.number
            HAVING SUM(l.base) <> 0
            UNION ALL
            SELECT CONCAT('open ', i.number), SUM(i.open_base)
            FROM open_item i
            WHERE i.open <> 0
            GROUP BY i.number
            UNION ALL
            SELECT CONCAT('reserved ', i.number), i.reserved_by_id
            FROM open_item i
            WHERE i.reserved_by_id IS NOT NULL
            UNION ALL
            SELECT 'received', SUM(received)
            FROM purchase_order_line
            ORDER BY 1
            SQL
            ,
        );
    }

    private function lock(bool $locked): void
    {
        $period = (int) $this->db()->fetchOne('SELECT id FROM period WHERE company_id = ? AND first_day = ?', [
            $this->clerk->companyId,
            '2026-06-01',
        ]);
        self::get(LockPeriod::class)->set($this->clerk, $period, 'ledger', $locked, 'early');
    }

    private function everyDoorIsShut(string $kind): void
    {
        foreach ($this->doors($kind) as $door => $do) {
            self::assertMatchesRegularExpression(
                '/came with import \d+, which is not through|undo that settlement first/',
                self::said($do),
                $door,
            );
        }
    }

    /** The first of the doors, once all is there. */
    private function takesOne(string $kind): void
    {
        array_values($this->doors($kind))[0]();
    }

    /** @return non-empty-array<string, callable(): mixed> */
    private function doors(string $kind): array
    {
        $latest = fn (string $sql): int => (int) $this->db()->fetchOne($sql);
        $document = $latest('SELECT MAX(id) FROM document WHERE lot_id IS NOT NULL');
        $settlement = $latest('SELECT MAX(id) FROM settlement WHERE undone_on IS NULL');
        $day = Day::of(self::DAY);

        return match ($kind) {
            'receipts', 'payments' => [
                'undo' => fn () => self::get(UndoSettlement::class)->undo($this->clerk, $settlement, null, 'x'),
                'reverse' => fn () => self::get(ReverseDocument::class)->reverse($this->clerk, $document, 'x'),
                'an event' => fn () => self::get(ReverseDocument::class)->event(
                    $this->clerk,
                    $document,
                    $day,
                    HowTakenBack::Bounced,
                    'x',
                    true,
                ),
                ...'payments' === $kind
                    ? []
                    : [
                        'deposit' => fn () => self::get(MakeDeposit::class)->deposit(
                            $this->clerk,
                            array_column(self::get(OnHandQuery::class)->of($this->clerk->companyId, $day), 'key'),
                            $day,
                            null,
                        ),
                        'the rest of it' => fn () => $this->money(Side::Receivables, 100, [
                            new PlacementRequest($latest('SELECT MAX(id) FROM open_item WHERE open < 0'), -100),
                            new PlacementRequest($latest('SELECT MAX(id) FROM open_item WHERE open > 0'), 200),
                        ]),
                    ],
            ],
            'settlements' => [
                'undo' => fn () => self::get(UndoSettlement::class)->undo($this->clerk, $settlement, null, 'x'),
            ],
            'journal' => [
                'reverse' => fn () => self::get(ReverseManualEntry::class)->reverse(
                    $this->clerk,
                    $latest('SELECT MAX(entry_id) FROM manual_entry'),
                    'x',
                ),
            ],
            default => $this->doorsOfDelivery($latest('SELECT MAX(id) FROM delivery'), $day),
        };
    }

    /** @return non-empty-array<string, callable(): mixed> */
    private function doorsOfDelivery(int $delivery, Day $day): array
    {
        $line = (int) $this->db()->fetchOne('SELECT id FROM delivery_line WHERE delivery_id = ?', [$delivery]);

        return [
            'invoice' => fn () => $this->invoice(Side::Payables, '1 × 0.25', [
                'document_date' => self::DAY,
                'lines' => [
                    ['account' => '1400', 'amount' => '1 × 0.25', 'text' => 'oak', 'delivery_line' => (string) $line],
                ],
            ]),
            'reverse' => fn () => self::get(ReverseDelivery::class)->reverse($this->clerk, $delivery, $day, 'x'),
            'back' => fn () => self::get(SendGoodsBack::class)->send(
                $this->clerk,
                [$line => BigDecimal::one()],
                $day,
                'x',
            ),
            'cleared' => fn () => self::get(ClearReceived::class)->clear($this->clerk, [$line => null], $day, 'x'),
        ];
    }
}
