<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Money\ReceiptBatches;

/** A pile of receipts, its control totals, and what is off. */
final class ReceiptBatchTest extends ScreenCase
{
    private const PAGE = '/TEST/receivables/receipt-batches';

    private function receive(int $batch, string $amount, string $key): string
    {
        $path = '/TEST/receivables/receipt';

        return $this->post($path, $path, [
            'party' => 'C-1',
            'date' => '.',
            'bank' => '1000',
            'amount' => $amount,
            'batch' => (string) $batch,
            'look_alike_reason' => 'another',
            '_action' => 'next',
            '_key' => $key,
        ])->html();
    }

    public function testADoubleClickBeginsOneBatch(): void
    {
        $fields = ['name' => 'Twice', 'bank' => '1000', '_key' => 'same'];
        $boards = [$this->post(self::PAGE, self::PAGE, $fields), $this->post(self::PAGE, self::PAGE, $fields)];
        [$one, $other] = array_map(static fn ($b): ?string => $b->filter('input[name=batch]')->attr('value'), $boards);
        self::assertSame($one, $other);
        self::assertSame(1, (int) $this->db()->fetchOne('SELECT COUNT(*) FROM receipt_batch'));
    }

    public function testAPileIsEnteredOneAfterTheOtherAndClosedWhenItComesToItsFigures(): void
    {
        $board = $this->post(self::PAGE, self::PAGE, [
            'name' => 'Monday’s mail',
            'control_count' => '2',
            'control_total' => '150',
            'bank' => '1000',
            'posting_date' => '12',
        ]);
        self::assertStringContainsString('0 of 2 receipts, 0.00 of 150.00 USD', $board->filter('.head')->text());
        self::assertSame('12 Jun 2026', $board->filter('#date')->attr('value'));
        $batch = (int) $board->filter('input[name=batch]')->attr('value');
        $next = $this->receive($batch, '100', 'a');
        self::assertStringContainsString(
            '1 of 2 receipts, 100.00 of 150.00 USD',
            (string) preg_replace('/\s+/', ' ', strip_tags($next)),
        );
        $batches = self::get(ReceiptBatches::class);
        self::assertStringContainsString(
            '1 of 2 receipts, 100.00 of 150.00 USD',
            self::said(fn () => $batches->close($this->clerk, $batch, ' ')),
        );
        $this->receive($batch, '40', 'b');
        $wrong = (int) $this->db()->fetchOne('SELECT MAX(id) FROM document');
        self::get(ReverseDocument::class)->reverse($this->clerk, $wrong, 'it was 50');
        $this->receive($batch, '50', 'c');
        self::assertStringContainsString(
            'It comes to its figures.',
            $this->page(self::PAGE.'/'.$batch)
                ->filter('footer')
                ->text(),
        );
        $batches->close($this->clerk, $batch, '');
        self::assertStringContainsString('is closed; nothing is added', strip_tags($this->receive($batch, '1', 'd')));
        self::assertSame(
            2,
            (int) $this->db()->fetchOne(
                "SELECT COUNT(*) FROM document WHERE receipt_batch_id = ? AND state = 'posted'",
                [$batch],
            ),
        );
    }

    public function testWhatIsOffIsClosedWithAReasonThatStays(): void
    {
        $batches = self::get(ReceiptBatches::class);
        $batch = $batches->begin($this->clerk, ['name' => 'x', 'bank' => '1000', 'control_total' => '5']);
        $this->post(self::PAGE.'/'.$batch, self::PAGE.'/'.$batch.'/close', ['why' => 'a check was unsigned']);
        self::assertStringContainsString('a check was unsigned', $this->page(self::PAGE.'/'.$batch)->text());
        foreach (
            [
                'name' => ['name' => '', 'bank' => '1000'],
                'bank' => ['name' => 'x', 'bank' => 'none'],
                'control_count' => ['name' => 'x', 'bank' => '1000', 'control_count' => 'two'],
                'posting_date' => ['name' => 'x', 'bank' => '1000', 'posting_date' => 'never'],
            ] as $field => $raw
        ) {
            self::assertSame([$field], self::refusedFields(fn () => $batches->begin($this->clerk, $raw)), $field);
        }
    }
}
