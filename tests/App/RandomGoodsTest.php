<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Goods\AwaitedQuery;
use Nelbix\App\Goods\ClearReceived;
use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\KeepOrder;
use Nelbix\App\Goods\NeverCame;
use Nelbix\App\Goods\NotInvoicedQuery;
use Nelbix\App\Goods\OrderReader;
use Nelbix\App\Goods\RecordDelivery;
use Nelbix\App\Goods\ReverseDelivery;
use Nelbix\App\Goods\SendGoodsBack;
use Nelbix\App\Goods\UndoSlip;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use PHPUnit\Framework\Attributes\DataProvider;

/**
 * Properties: in whatever order things are ordered, delivered, invoiced, awaited, sent back, cleared and undone, quantities are never
 * below zero or above what was ordered; received-not-invoiced is what is left of the deliveries, and invoiced-not-received what is left
 * of the invoices, now and on every past day.
 */
final class RandomGoodsTest extends AppCase
{
    private const FROM = '2026-06-01';
    private const DAYS = 14;

    /** @return iterable<string, array{int}> */
    public static function seeds(): iterable
    {
        foreach (range(1, 8) as $seed) {
            yield "seed $seed" => [$seed];
        }
    }

    #[DataProvider('seeds')]
    public function testInWhateverOrder(int $seed): void
    {
        mt_srand($seed);
        $done = $refused = 0;
        foreach (range(0, self::DAYS - 1) as $n) {
            $day = Day::of(self::FROM)->plusDays($n);
            for ($k = 0; $k < 5; ++$k) {
                $acts = $this->acts($day);
                try {
                    $acts[array_rand($acts)]();
                    ++$done;
                } catch (Refused $e) {
                    self::assertNotSame('', $e->getMessage());
                    ++$refused;
                }
            }
            $this->holds($day);
        }
        self::assertGreaterThan(20, $done);
        self::assertGreaterThan(0, $refused, 'some of it may not be');
        foreach (range(0, self::DAYS) as $n) {
            $this->tiesOn(Day::of(self::FROM)->plusDays($n));
        }
    }

    /** @return non-empty-array<string, \Closure(): mixed> */
    private function acts(Day $day): array
    {
        $one = fn (string $sql): int => (int) $this->db()->fetchOne($sql.' ORDER BY RAND('.mt_rand().') LIMIT 1', [
            $this->clerk->companyId,
        ]);
        $open =
            'SELECT l.id FROM delivery_line l JOIN delivery g ON g.id = l.delivery_id WHERE g.company_id = ? AND g.reversed_on IS NULL';

        return [
            'order' => fn () => $this->order(),
            'deliver' => fn () => $this->deliver(
                $one(
                    'SELECT n.id FROM purchase_order_line n JOIN purchase_order o ON o.id = n.order_id WHERE o.company_id = ?',
                ),
                $day,
            ),
            'unordered' => fn () => $this->deliver(null, $day),
            'invoice' => fn () => $this->invoiceOf($one($open), $day),
            'invoice again' => fn () => $this->invoiceOf($one($open), $day),
            'back' => fn () => self::get(SendGoodsBack::class)->send(
                $this->clerk,
                [$one($open) => self::few()],
                $day,
                'broken',
            ),
            'clear' => fn () => self::get(ClearReceived::class)->clear(
                $this->clerk,
                [$one($open) => null],
                $day,
                'never invoiced',
            ),
            'undo' => fn () => self::get(UndoSlip::class)->undo(
                $this->clerk,
                $one('SELECT id FROM goods_slip WHERE company_id = ?'),
                $day,
                'after all',
            ),
            'reverse' => fn () => self::get(ReverseDocument::class)->reverse(
                $this->clerk,
                $one(
                    "SELECT id FROM document WHERE company_id = ? AND kind IN ('invoice', 'debit_note', 'credit_note') ".
                        'AND reverses_id IS NULL',
                ),
                'wrong',
            ),
            'invoice first' => fn () => $this->invoiceOf(
                $one(
                    'SELECT n.id FROM purchase_order_line n JOIN purchase_order o ON o.id = n.order_id WHERE o.company_id = ?',
                ),
                $day,
                'order_line',
            ),
            'never came' => fn () => self::get(NeverCame::class)->clear(
                $this->clerk,
                [$one('SELECT w.id FROM goods_awaited w WHERE w.company_id = ?') => null],
                $day,
                'lost',
            ),
            'credit' => fn () => $this->credited($day),
            'take back' => fn () => self::get(ReverseDelivery::class)->reverse(
                $this->clerk,
                $one('SELECT id FROM delivery WHERE company_id = ?'),
                $day,
                'wrong',
            ),
        ];
    }

    private static function few(): BigDecimal
    {
        return BigDecimal::ofUnscaledValue(mt_rand(1, 50_000), 4);
    }

    private function order(): void
    {
        $lines = [];
        foreach (range(1, mt_rand(1, 3)) as $k) {
            $lines[] = [
                'account' => 0 === $k % 2 ? '1400' : '5000',
                'text' => "goods $k",
                'quantity' => (string) self::few(),
                'price' => (string) BigDecimal::ofUnscaledValue(mt_rand(1, 90_000_000), 6),
            ];
        }
        $raw = ['party' => 'V-1', 'ordered_on' => self::FROM, 'lines' => $lines];
        self::get(KeepOrder::class)->enter($this->clerk, self::get(OrderReader::class)->read($this->clerk, $raw));
    }

    private function deliver(?int $line, Day $day): void
    {
        $row =
            null === $line
                ? [
                    'account' => '5000',
                    'text' => 'nobody ordered it',
                    'quantity' => (string) self::few(),
                    'price' => '3.3333',
                ]
                : [
                    'order_line' => (string) $line,
                    'quantity' => (string) self::few(),
                    'price' => mt_rand(0, 3) > 0 ? '' : '7.77',
                ];
        $raw = ['party' => 'V-1', 'delivered_on' => $day->iso(), 'lines' => [$row]];
        self::get(RecordDelivery::class)->record(
            $this->clerk,
            self::get(DeliveryReader::class)->read($this->clerk, $raw),
        );
    }

    private function invoiceOf(int $line, Day $day, string $of = 'delivery_line'): void
    {
        $there = $this->db()->fetchOne(
            'delivery_line' === $of
                ? 'SELECT open_quantity FROM delivery_line WHERE id = ?'
                : 'SELECT quantity - received FROM purchase_order_line WHERE id = ?',
            [$line],
        );
        $left = BigDecimal::of(false === $there ? '0' : (string) $there);
        $quantity = mt_rand(0, 1) > 0 && $left->isPositive() ? $left : self::few();
        $raw = [
            'party' => 'V-1',
            'number' => 'R-'.mt_rand(),
            'document_date' => $day->iso(),
            'look_alike_reason' => 'another one',
            'day_meant' => '1',
            'lines' => [
                [
                    'account' => '5000',
                    'amount' => $quantity->stripTrailingZeros().' × '.BigDecimal::ofUnscaledValue(mt_rand(1, 9_000_000), 4),
                    'text' => 'goods',
                    $of => (string) $line,
                ],
            ],
        ];
        self::get(PostInvoice::class)->post(
            $this->clerk,
            self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, $raw),
        );
    }

    /** The vendor's credit note, of more or less than was claimed, takes the place of a claim. */
    private function credited(Day $day): void
    {
        $claim = $this->db()->fetchAssociative(
            "SELECT number, total FROM document WHERE company_id = ? AND kind = 'debit_note' AND state = 'posted' ".
                'ORDER BY RAND('.
                mt_rand().
                ') LIMIT 1',
            [$this->clerk->companyId],
        );
        if (false === $claim) {
            throw Refused::because('', 'nothing is claimed');
        }
        $raw = [
            'party' => 'V-1',
            'kind' => 'credit_note',
            'number' => 'CR-'.mt_rand(),
            'document_date' => $day->iso(),
            'look_alike_reason' => 'another one',
            'day_meant' => '1',
            'against' => (string) $claim['number'],
            'lines' => [
                [
                    'account' => '5000',
                    'amount' => (string) BigDecimal::ofUnscaledValue(
                        max(1, (int) $claim['total'] + mt_rand(-50, 50)),
                        2,
                    ),
                    'text' => 'credited',
                ],
            ],
        ];
        self::get(PostInvoice::class)->post(
            $this->clerk,
            self::get(InvoiceReader::class)->read($this->clerk, Side::Payables, $raw),
        );
    }

    private function holds(Day $day): void
    {
        $bad = $this->db()->fetchAllAssociative(
            <<<'SQL'
            SELECT n.id
            FROM purchase_order_line n
            WHERE n.received < 0 OR n.invoiced < 0 OR n.received > n.quantity OR n.invoiced > n.quantity
            UNION ALL
            SELECT w.id FROM goods_awaited w WHERE w.open_quantity < 0 OR w.open_quantity > w.quantity
            UNION ALL
            SELECT l.id FROM delivery_line l WHERE l.open_quantity < 0 OR l.open_amount < 0 OR l.open_quantity > l.quantity
            SQL
            ,
        );
        self::assertSame([], $bad);
        $this->tiesOn($day);
    }

    private function tiesOn(Day $day): void
    {
        $query = self::get(NotInvoicedQuery::class);
        $accrued = array_sum(array_column($query->lines($this->clerk->companyId, $day, null), 'base'));
        self::assertSame($query->ledger($this->clerk->companyId, $day), $accrued, $day->iso());
        self::assertSame($accrued, array_sum(array_column($query->byVendor($this->clerk->companyId, $day), 'base')));
        $awaited = self::get(AwaitedQuery::class);
        [$sum, $ledger] = $awaited->sums($this->clerk->companyId, $day);
        self::assertSame($ledger, $sum, $day->iso());
        self::assertSame($sum, array_sum(array_column($awaited->lines($this->clerk->companyId, $day), 'base')));
    }
}
