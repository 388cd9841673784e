<?php

declare(strict_types=1);

namespace Nelbix\Demo;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Goods\AccruedLine;
use Nelbix\App\Goods\AccruedLines;
use Nelbix\App\Goods\DecideOrder;
use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\KeepOrder;
use Nelbix\App\Goods\OrderReader;
use Nelbix\App\Goods\RecordDelivery;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/** What the yard orders, what of it comes, and the invoices that belong to it; some goods that nobody ordered. */
final class Yard
{
    /** What is ordered: from which vendor, how much, in which unit, at which price. */
    private const GOODS = [
        [0, 'white oak boards', '42.5', 'FTQ', '18.40'],
        [1, 'epoxy resin, drums', '4', 'XDR', '228.10'],
        [2, 'bronze cleats', '36', 'H87', '21.75'],
        [3, 'sailcloth 9 oz', '120', 'FOT', '14.20'],
        [31, 'marine ply sheets', '18', 'H87', '96.00'],
        [7, 'copper rivets, boxes', '12', 'XBX', '33.30'],
        [9, 'manila rope, coils', '6', 'XRO', '148.50'],
        [19, 'spruce spar blanks', '3', 'H87', '412.00'],
    ];

    public function __construct(
        private readonly Acts $acts,
        private readonly Connection $db,
        private readonly OrderReader $orderReader,
        private readonly KeepOrder $keepOrder,
        private readonly DecideOrder $decide,
        private readonly DeliveryReader $deliveryReader,
        private readonly RecordDelivery $record,
        private readonly AccruedLines $accrued,
        private readonly InvoiceReader $invoiceReader,
        private readonly PostInvoice $postInvoice,
    ) {
    }

    public function plan(Actor $buyer, Actor $receiver, Actor $payables, Actor $approver): void
    {
        // ordered so many days ago, came so many days later, invoiced after that; what is of the last days is not invoiced yet
        foreach ([70, 61, 49, 40, 33, 26, 19, 12] as $n => $ago) {
            $day = $this->acts->end->plusDays(-$ago);
            $this->acts->on($day, function () use ($buyer, $receiver, $payables, $n, $day): void {
                $this->usual($buyer, $receiver, $payables, $n, $day);
            });
        }
        $this->acts->on($this->acts->end->plusDays(-24), fn () => $this->inTwoDeliveries($buyer, $receiver, $payables));
        $this->acts->on($this->acts->end->plusDays(-8), fn () => $this->dearer($buyer, $receiver, $payables));
        $this->acts->on($this->acts->end->plusDays(-15), fn () => $this->crane($buyer));
        $this->acts->on($this->acts->end->plusDays(-2), fn () => $this->mast($buyer));
        $this->acts->on($this->acts->end->plusDays(-11), fn () => $this->invoicedFirst($buyer, $receiver, $payables));
        $this->acts->on($this->acts->end->plusDays(-18), fn () => $this->late($buyer, $approver));
        foreach ([9, 4, 1] as $n => $ago) {
            $day = $this->acts->end->plusDays(-$ago);
            $this->acts->on($day, fn () => $this->unordered($receiver, $n, $day));
        }
    }

    private function usual(Actor $buyer, Actor $receiver, Actor $payables, int $n, Day $day): void
    {
        [$vendor, $text, $quantity, $unit, $price] = self::GOODS[$n % 8];
        $order = $this->order($buyer, $vendor, $day, [[$text, $quantity, $unit, $price]]);
        $came = $day->plusDays(6);
        $this->acts->on($came, function () use ($receiver, $payables, $order, $quantity, $came, $n): void {
            $delivery = $this->came($receiver, $order, [$quantity], $came, \sprintf('DN-%d', 4400 + $n * 13));
            $this->invoiceLater($payables, [$delivery], $came->plusDays(8), \sprintf('W-%d', 880 + $n * 7));
        });
    }

    /** Half came at first, the rest at another price that its note shows. */
    private function inTwoDeliveries(Actor $buyer, Actor $receiver, Actor $payables): void
    {
        $day = $this->acts->end->plusDays(-24);
        $order = $this->order($buyer, 31, $day, [
            ['mahogany planks', '40', 'FTQ', '24.60'],
            ['teak offcuts', '10', 'FTQ', '11.00'],
        ]);
        foreach ([[15, ['20', '10'], null], [6, ['20'], '25.20']] as [$ago, $quantities, $price]) {
            $came = $this->acts->end->plusDays(-$ago);
            $this->acts->on($came, function () use ($receiver, $order, $quantities, $price, $came, $ago): void {
                $this->came($receiver, $order, $quantities, $came, 'L-'.(700 + $ago), $price);
            });
        }
    }

    /** Invoiced above what was agreed: it is held for the buyer. */
    private function dearer(Actor $buyer, Actor $receiver, Actor $payables): void
    {
        $day = $this->acts->end->plusDays(-8);
        $order = $this->order($buyer, 2, $day, [['bronze rudder fittings', '14', 'H87', '61.00']]);
        $came = $day->plusDays(4);
        $this->acts->on($came, function () use ($receiver, $payables, $order, $came): void {
            $delivery = $this->came($receiver, $order, ['14'], $came, 'BF-221');
            $this->invoiceLater($payables, [$delivery], $came->plusDays(3), 'BF-9021', '64.50');
        });
    }

    private function crane(Actor $buyer): void
    {
        $this->order($buyer, 12, $this->acts->end->plusDays(-15), [
            ['crane hire for masts', '16', 'HUR', '92.00', 'service'],
        ]);
    }

    private function mast(Actor $buyer): void
    {
        $this->order($buyer, 19, $this->acts->end->plusDays(-2), [['hollow spruce mast, 14 m', '1', 'C62', '6480.00']]);
    }

    /** The invoice was here before the goods; some of them have come since. */
    private function invoicedFirst(Actor $buyer, Actor $receiver, Actor $payables): void
    {
        $day = $this->acts->end->plusDays(-11);
        $order = $this->order($buyer, 14, $day, [
            ['deck winches', '6', 'H87', '415.00'],
            ['winch handles', '6', 'H87', '36.50'],
        ]);
        $invoiced = $day->plusDays(3);
        $this->acts->on($invoiced, function () use ($payables, $order, $invoiced): void {
            $rows = $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT n.id, n.text, n.quantity, n.price, a.number, p.code, c.code AS cost_center
                FROM purchase_order_line n
                JOIN purchase_order o ON o.id = n.order_id
                JOIN party p ON p.id = o.party_id
                JOIN account a ON a.id = n.account_id
                LEFT JOIN analysis_code c ON c.id = n.cost_center_id
                WHERE n.order_id = ?
                ORDER BY n.position
                SQL
                ,
                [$order],
            );
            $this->invoice(
                $payables,
                $invoiced,
                'SL-3307',
                (string) $rows[0]['code'],
                array_map(
                    static fn (array $r): array => [
                        'order_line' => (string) $r['id'],
                        'account' => (string) $r['number'],
                        'text' => (string) $r['text'],
                        'amount' => self::plain($r['quantity']).' × '.self::plain($r['price']),
                        'cost_center' => (string) $r['cost_center'],
                    ],
                    $rows,
                ),
            );
        });
        $came = $day->plusDays(7);
        $this->acts->on($came, fn () => $this->came($receiver, $order, ['2', '6'], $came, 'SL-118'));
    }

    private function late(Actor $buyer, Actor $approver): void
    {
        $day = $this->acts->end->plusDays(-18);
        $order = $this->order(
            $buyer,
            3,
            $day,
            [['sail, mainsail for Ada', '1', 'C62', '5350.00'], ['sail bags', '4', 'H87', '38.00']],
            12,
        );
        $this->acts->on($day->plusDays(1), fn () => $this->decide->decide($approver, $order, true, '', null));
    }

    private function unordered(Actor $receiver, int $n, Day $day): void
    {
        [$vendor, $text, $quantity, , $price] = self::GOODS[[5, 1, 6][$n]];
        $this->record->record(
            $receiver,
            $this->deliveryReader->read($receiver, [
                'party' => $this->acts->parties($receiver, Side::Payables)[$vendor]['code'],
                'delivered_on' => $day->iso(),
                'note_number' => \sprintf('DN-%d', 5100 + $n * 17),
                'remark' => 1 === $n ? 'one drum dented, taken all the same' : '',
                'lines' => [['text' => $text, 'quantity' => $quantity, 'price' => $price, 'cost_center' => 'YARD']],
            ]),
        );
        ++$this->acts->count;
    }

    /**
     * @param list<list<string>> $lines text, quantity, unit, price, kind
     *
     * @return int the order's id
     */
    private function order(Actor $buyer, int $vendor, Day $day, array $lines, int $wantedIn = 14): int
    {
        $raw = [
            'party' => $this->acts->parties($buyer, Side::Payables)[$vendor]['code'],
            'ordered_on' => $day->iso(),
            'wanted_by' => $day->plusDays($wantedIn)->iso(),
            'lines' => array_map(
                static fn (array $l): array => [
                    'text' => $l[0],
                    'quantity' => $l[1],
                    'unit' => $l[2],
                    'price' => $l[3],
                    'kind' => $l[4] ?? 'goods',
                    'cost_center' => 'YARD',
                ],
                $lines,
            ),
        ];

        return $this->keepOrder->enter($buyer, $this->orderReader->read($buyer, $raw, true));
    }

    /**
     * @param list<string> $quantities of the order's lines
     *
     * @return int the delivery's id
     */
    private function came(
        Actor $receiver,
        int $order,
        array $quantities,
        Day $day,
        string $note,
        ?string $price = null,
    ): int {
        $ids = $this->db->fetchFirstColumn('SELECT id FROM purchase_order_line WHERE order_id = ? ORDER BY position', [
            $order,
        ]);
        $lines = [];
        foreach ($quantities as $k => $quantity) {
            $lines[] = ['order_line' => (string) $ids[$k], 'quantity' => $quantity, 'price' => (string) $price];
        }
        ++$this->acts->count;

        return $this->record->record(
            $receiver,
            $this->deliveryReader->read($receiver, [
                'delivered_on' => $day->iso(),
                'note_number' => $note,
                'lines' => $lines,
            ]),
        );
    }

    /** @param list<int> $deliveries */
    private function invoiceLater(
        Actor $payables,
        array $deliveries,
        Day $day,
        string $number,
        ?string $price = null,
    ): void {
        $this->acts->on($day, function () use ($payables, $deliveries, $day, $number, $price): void {
            $ids = $this->db->fetchFirstColumn(
                'SELECT id FROM delivery_line WHERE delivery_id IN ('.implode(',', $deliveries).')',
            );
            $goods = $this->accrued->of($payables->companyId, array_map(intval(...), $ids));
            $party = array_values($goods)[0]->partyId;
            $code = (string) $this->db->fetchOne('SELECT code FROM party WHERE id = ?', [$party]);
            $this->invoice(
                $payables,
                $day,
                $number,
                $code,
                array_map(
                    static fn (AccruedLine $l): array => [
                        'delivery_line' => (string) $l->id,
                        'account' => $l->accountNumber,
                        'text' => $l->text,
                        'amount' => $l->left->quantity->stripTrailingZeros().' × '.($price ?? $l->price),
                        ...$l->codes,
                    ],
                    array_values($goods),
                ),
            );
        });
    }

    /** @param list<array<string, string>> $lines */
    private function invoice(Actor $payables, Day $day, string $number, string $party, array $lines): void
    {
        $raw = [
            'party' => $party,
            'number' => $number,
            'document_date' => $day->iso(),
            'day_meant' => 'yes',
            'look_alike_reason' => 'its own delivery',
            'lines' => $lines,
        ];
        $this->postInvoice->post($payables, $this->invoiceReader->read($payables, Side::Payables, $raw));
        ++$this->acts->count;
    }

    private static function plain(mixed $decimal): string
    {
        return (string) BigDecimal::of((string) $decimal)->stripTrailingZeros();
    }
}
