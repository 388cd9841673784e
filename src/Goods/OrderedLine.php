<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\Approval;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Analysis;

/** A line of an order as it stands: what was agreed, what came of it, what was invoiced. */
final readonly class OrderedLine
{
    /**
     * @param BigDecimal $price each, units of the order's currency
     * @param array{cost_center: string, department: string, project: string} $codes of the analysis
     */
    private function __construct(
        public int $id,
        public int $orderId,
        public string $order,
        public int $partyId,
        public string $vendor,
        public string $vendorCode,
        public string $currency,
        public int $orderedBy,
        public string $orderedByName,
        public Approval $approval,
        public bool $closed,
        public int $position,
        public bool $service,
        public int $account,
        public string $accountNumber,
        public string $text,
        public BigDecimal $quantity,
        public string $unit,
        public BigDecimal $price,
        public int $amount,
        public Analysis $analysis,
        public array $codes,
        public string $taxCode,
        public ?Day $wantedBy,
        public BigDecimal $received,
        public BigDecimal $invoiced,
    ) {
    }

    /** Something may come for it: its order is neither closed nor waits for a decision. */
    public function mayCome(): bool
    {
        return !$this->closed && \in_array($this->approval, [Approval::None, Approval::Approved], true);
    }

    /** What is still to come; not below zero. */
    public function toCome(): BigDecimal
    {
        return BigDecimal::max($this->quantity->minus($this->received), 0)->stripTrailingZeros();
    }

    /** @param array<string, mixed> $r a row of OrderedLines */
    public static function of(array $r): self
    {
        $int = static fn (string $key): ?int => null === $r[$key] ? null : (int) $r[$key];
        $number = static fn (string $key): BigDecimal => BigDecimal::of((string) $r[$key])->stripTrailingZeros();

        return new self(
            (int) $r['id'],
            (int) $r['order_id'],
            (string) $r['number'],
            (int) $r['party_id'],
            (string) $r['vendor'],
            (string) $r['vendor_code'],
            (string) $r['currency'],
            (int) $r['ordered_by'],
            (string) $r['ordered_by_name'],
            Approval::from((string) $r['approval']),
            null !== $r['closed_on'],
            (int) $r['position'],
            (bool) $r['service'],
            (int) $r['account_id'],
            (string) $r['account'],
            (string) $r['text'],
            $number('quantity'),
            (string) $r['unit'],
            $number('price'),
            (int) $r['amount'],
            new Analysis($int('cost_center_id'), $int('department_id'), $int('project_id')),
            [
                'cost_center' => (string) $r['cost_center'],
                'department' => (string) $r['department'],
                'project' => (string) $r['project'],
            ],
            (string) $r['tax_code'],
            null === $r['wanted_by'] ? null : Day::of((string) $r['wanted_by']),
            $number('received'),
            $number('invoiced'),
        );
    }
}
