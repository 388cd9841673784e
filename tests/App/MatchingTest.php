<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Close\TieOutQuery;
use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\RecordDelivery;
use Nelbix\App\Goods\ReverseDelivery;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Invoices\PutRight;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/** Invoices matched with what was delivered. Source: rules.md, Matching. */
final class MatchingTest extends AppCase
{
    /** @return list<int> the ids of its lines */
    private function delivered(string $quantity = '10', string $price = '12.50', string $day = '2026-06-10'): array
    {
        $raw = [
            'party' => 'V-1',
            'delivered_on' => $day,
            'lines' => [['account' => '1400', 'quantity' => $quantity, 'price' => $price, 'text' => 'oak']],
        ];
        $id = self::get(RecordDelivery::class)->record(
            $this->clerk,
            self::get(DeliveryReader::class)->read($this->clerk, $raw),
        );

        return array_map(
            'intval',
            $this->db()->fetchFirstColumn('SELECT id FROM delivery_line WHERE delivery_id = ?', [$id]),
        );
    }

    /** @param array<string, mixed> $more */
    private function invoiced(int $line, string $amount, array $more = []): int
    {
        $raw = [
            'party' => 'V-1',
            'number' => 'M-'.random_int(1, 999_999),
            'document_date' => self::DAY,
            'look_alike_reason' => 'another one',
            'lines' => [['account' => '1400', 'amount' => $amount, 'text' => 'oak', 'delivery_line' => (string) $line]],
            ...$more,
        ];

        return self::get(PostInvoice::class)->post(
            $this->clerk,
            self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, $raw),
        );
    }

    /** @return array{int, int} ledger and items of received-not-invoiced, in its normal sign */
    private function tie(string $day): array
    {
        foreach (self::get(TieOutQuery::class)->of($this->clerk->companyId, Day::of($day)) as $row) {
            if (AccountRole::ReceivedNotInvoiced === $row['role']) {
                self::assertSame([], $row['tie']->explainedBy, $day);

                return [$row['tie']->ledger, $row['tie']->items];
            }
        }
        self::fail('no such control account');
    }

    public function testTheWorkedExample(): void
    {
        [$line] = $this->delivered();
        // rules.md: 8 of 10 received at 12.50, 8 invoiced at 12.90; the tax of it is the core's
        $this->invoiced($line, '8 × 12.90');
        self::assertSame([12500, -2500, 320, -10320], array_map($this->balance(...), ['1400', '2110', '5800', '2100']));
        self::assertSame([[12500, 12500], [2500, 2500]], [$this->tie('2026-06-14'), $this->tie(self::DAY)]);
        // the last two take what is left
        $this->invoiced($line, '2 × 12.50');
        self::assertSame([0, 320], [$this->balance('2110'), $this->balance('5800')]);
        self::assertSame([0, 0], $this->tie(self::DAY));
    }

    public function testAVarianceMayGoBackToTheLine(): void
    {
        self::get(Settings::class)->keep($this->clerk->companyId, ['price_variance' => 'line']);
        [$line] = $this->delivered();
        $this->invoiced($line, '10 × 12');
        self::assertSame([12000, 0, -12000], array_map($this->balance(...), ['1400', '2110', '2100']));
    }

    public function testMoreThanIsLeftIsRefused(): void
    {
        [$line] = $this->delivered();
        $this->invoiced($line, '8 × 12.50');
        self::assertSame(['lines.0.amount'], self::refusedFields(fn () => $this->invoiced($line, '3 × 12.50')));
        // twice in one invoice, together more than is left
        $twice = ['account' => '1400', 'amount' => '1.5 × 12.50', 'text' => 'oak', 'delivery_line' => (string) $line];
        self::assertSame(
            ['lines.1.amount'],
            self::refusedFields(fn () => $this->invoiced($line, '', ['lines' => [$twice, $twice]])),
        );
        // an amount alone does not say how much is matched
        self::assertSame(['lines.0.amount'], self::refusedFields(fn () => $this->invoiced($line, '25.00')));
        // goods that came later than the invoice is posted
        self::assertSame(
            ['posting_date'],
            self::refusedFields(fn () => $this->invoiced($line, '2 × 12.50', ['posting_date' => '2026-06-09'])),
        );
        self::assertSame(
            ['lines.0.amount'],
            self::refusedFields(fn () => $this->invoiced($line, '2 × 12.50', ['kind' => 'credit_note'])),
        );
        self::assertSame(['lines.0.amount'], self::refusedFields(fn () => $this->invoiced($line + 1000, '2 × 12.50')));
    }

    public function testAnInvoiceGivesBackWhatItTook(): void
    {
        [$line] = $this->delivered();
        $id = $this->invoiced($line, '10 × 12.90');
        $delivery = (int) $this->db()->fetchOne('SELECT delivery_id FROM delivery_line WHERE id = ?', [$line]);
        $number = (string) $this->db()->fetchOne('SELECT number FROM document WHERE id = ?', [$id]);
        try {
            self::get(ReverseDelivery::class)->reverse($this->clerk, $delivery, Day::of(self::DAY), 'wrong');
            self::fail('a delivery that is invoiced stands');
        } catch (Refused $e) {
            self::assertStringContainsString("something is in $number; take that back first", $e->getMessage());
        }
        self::get(ReverseDocument::class)->reverse($this->clerk, $id, 'of another company');
        self::assertSame([12500, -12500, 0, 0], array_map($this->balance(...), ['1400', '2110', '5800', '2100']));
        self::assertSame([12500, 12500], $this->tie(self::DAY));
        // and it can be invoiced again, but not before it was given back
        self::assertSame(
            ['posting_date'],
            self::refusedFields(fn () => $this->invoiced($line, '10 × 12.50', ['posting_date' => '2026-06-12'])),
        );
        $again = $this->invoiced($line, '10 × 12.50');
        self::assertSame(0, $this->balance('2110'));
        self::get(ReverseDocument::class)->reverse($this->clerk, $again, 'once more');
        self::get(ReverseDelivery::class)->reverse($this->clerk, $delivery, Day::of(self::DAY), 'wrong');
        self::assertSame([0, 0], [$this->balance('1400'), $this->balance('2110')]);
    }

    public function testItIsPutRightWithTheSameGoods(): void
    {
        [$line] = $this->delivered();
        $id = $this->invoiced($line, '10 × 12.90');
        $raw = [
            'party' => 'V-1',
            'number' => 'M-right',
            'document_date' => self::DAY,
            'look_alike_reason' => 'it is put right',
            '_put_right' => (string) $id,
            'lines' => [
                ['account' => '1400', 'amount' => '10 × 12.60', 'text' => 'oak', 'delivery_line' => (string) $line],
            ],
        ];
        $input = self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, $raw);
        self::get(PutRight::class)->putRight($this->clerk, $id, $input, 'the price');
        self::assertSame([12500, 0, 100, -12600], array_map($this->balance(...), ['1400', '2110', '5800', '2100']));
        self::assertSame([0, 0], $this->tie(self::DAY));
    }
}
