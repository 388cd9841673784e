<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Analysis;
use Nelbix\Core\Matching\Accrued;

/** Delivered goods, what of them nobody invoiced or sent back yet, and the order they came for. */
final readonly class AccruedLine
{
    /**
     * @param int $control account that holds what is received and not invoiced
     * @param BigDecimal $price each, at which it was accrued, units of the currency
     * @param BigDecimal|null $agreed price each of the order; null when nobody ordered it
     * @param BigDecimal|null $ordered quantity of the order's line
     * @param BigDecimal|null $invoiced quantity of the order's line that was invoiced so far
     * @param Day|null $notBefore nothing takes of it before this day
     * @param array{cost_center: string, department: string, project: string} $codes of the analysis
     */
    private function __construct(
        public int $id,
        public int $deliveryId,
        public string $delivery,
        public string $note,
        public Day $deliveredOn,
        public bool $reversed,
        public int $partyId,
        public string $currency,
        public int $control,
        public int $account,
        public string $accountNumber,
        public string $text,
        public string $unit,
        public BigDecimal $price,
        public Accrued $left,
        public ?Day $notBefore,
        public Analysis $analysis,
        public array $codes,
        public int $receivedBy,
        public ?int $orderLine,
        public string $order,
        public ?int $orderedBy,
        public ?BigDecimal $agreed,
        public ?BigDecimal $ordered,
        public ?BigDecimal $invoiced,
        public string $taxCode,
        public int $orderPosition,
    ) {
    }

    /** @param array<string, mixed> $r a row of AccruedLines */
    public static function of(array $r): self
    {
        $int = static fn (string $key): ?int => null === $r[$key] ? null : (int) $r[$key];
        $number = static fn (string $key): ?BigDecimal => null === $r[$key]
            ? null
            : BigDecimal::of((string) $r[$key])->stripTrailingZeros();

        return new self(
            (int) $r['id'],
            (int) $r['delivery_id'],
            (string) $r['delivery'],
            (string) $r['note_number'],
            Day::of((string) $r['delivered_on']),
            null !== $r['reversed_on'],
            (int) $r['party_id'],
            (string) $r['currency'],
            (int) $r['control'],
            (int) $r['account_id'],
            (string) $r['account'],
            (string) $r['text'],
            (string) $r['unit'],
            BigDecimal::of((string) $r['price'])->stripTrailingZeros(),
            new Accrued(BigDecimal::of((string) $r['open_quantity']), (int) $r['open_amount'], (int) $r['open_base']),
            null === $r['last_undone_on'] ? null : Day::of((string) $r['last_undone_on']),
            new Analysis($int('cost_center_id'), $int('department_id'), $int('project_id')),
            [
                'cost_center' => (string) $r['cost_center'],
                'department' => (string) $r['department'],
                'project' => (string) $r['project'],
            ],
            (int) $r['received_by'],
            $int('order_line_id'),
            (string) $r['order_number'],
            $int('ordered_by'),
            $number('agreed'),
            $number('ordered'),
            $number('invoiced'),
            (string) $r['tax_code'],
            (int) $r['order_position'],
        );
    }
}
