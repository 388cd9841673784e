<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Brick\Math\BigDecimal;
use Brick\Math\Exception\MathException;
use Brick\Math\RoundingMode;
use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\FindGoods;
use Nelbix\App\Goods\FoundGoods;
use Nelbix\App\Goods\GoodsPool;
use Nelbix\App\Goods\WantedGoods;
use Nelbix\App\Parties\Party;
use Nelbix\Core\Ledger\DeliveryEntry;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\PricedAmount;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/**
 * The goods that rows of a file's invoices name by order and line, taken from what was delivered first, then from what is to come. What
 * one invoice of the file takes is not there for the next.
 */
#[Exclude]
final class GoodsOfRows
{
    /** @var array<string, GoodsPool> by vendor, currency and order */
    private array $pools = [];

    public function __construct(private readonly int $companyId, private readonly FindGoods $find)
    {
    }

    /**
     * @param array<string, string> $row
     * @param array<string, string> $line the row as a line of the form
     *
     * @return non-empty-list<array<string, string>> the lines of the invoice that it becomes, one a delivery
     *
     * @throws Refused when there are none, or fewer than the row says
     */
    public function lines(array $row, array $line, Party $party, string $currency, int $k): array
    {
        $unit = Currency::of($currency);
        $amount = Money::parse($row['amount'], $currency, "lines.$k.amount")->minor;
        $quantity = DeliveryReader::number($row['quantity'], 4, 'quantity', "lines.$k.quantity");
        $price = self::price($row, $amount, $quantity, $unit, $k);
        $found = $this->found($row, $party, $currency, $quantity, $k);
        $worth = array_map(static fn ($f): int => DeliveryEntry::value($f->quantity, $price, $unit), $found);
        $allowance = array_sum($worth) - $amount;
        $lines = [];
        foreach ($found as $part) {
            $lines[] = [
                ...$part->fields(),
                ...array_filter($line, static fn (string $v): bool => '' !== $v),
                'amount' => PricedAmount::typed(
                    (string) $part->quantity,
                    (string) $price->stripTrailingZeros(),
                    $allowance,
                    $currency,
                ),
            ];
            $allowance = 0;
        }

        return $lines;
    }

    /**
     * @param array<string, string> $row
     *
     * @return non-empty-list<FoundGoods>
     *
     * @throws Refused when there are none, or fewer than the row says
     */
    private function found(array $row, Party $party, string $currency, BigDecimal $quantity, int $k): array
    {
        $order = mb_strtoupper($row['delivery_order']);
        $pool = $this->pools["{$party->id()} $currency $order"] ??= $this->find->pool(
            $this->companyId,
            $party->id(),
            $currency,
            [$order],
        );
        $found = $pool->take(new WantedGoods($order, '', (int) $row['delivery_line'], '', $quantity, null));
        $there = BigDecimal::sum(BigDecimal::zero(), ...array_map(static fn ($f): BigDecimal => $f->quantity, $found));
        if ([] === $found || $there->isLessThan($quantity)) {
            throw Refused::all([
                new Problem(
                    "lines.$k.delivery_line",
                    \sprintf(
                        'Of line %s of “%s” %s are delivered or to come and not invoiced.',
                        mb_strimwidth($row['delivery_line'], 0, 10, '…'),
                        mb_strimwidth($row['delivery_order'], 0, 40, '…'),
                        $there->isZero() ? 'none' : 'only '.$there->stripTrailingZeros(),
                    ),
                    null,
                    ProblemKind::TooMuch,
                ),
            ]);
        }

        return $found;
    }

    /**
     * @param array<string, string> $row
     *
     * @throws Refused when quantity × price is not the amount
     */
    private static function price(array $row, int $amount, BigDecimal $quantity, Currency $unit, int $k): BigDecimal
    {
        try {
            $price =
                '' === $row['price']
                    ? BigDecimal::ofUnscaledValue($amount, $unit->digits)->dividedBy(
                        $quantity,
                        6,
                        RoundingMode::HALF_UP,
                    )
                    : DeliveryReader::number($row['price'], 6, 'price', "lines.$k.price");
        } catch (MathException) {
            throw Refused::because("lines.$k.price", 'Give the price each.', ProblemKind::Missing);
        }
        $value = DeliveryEntry::value($quantity, $price, $unit);
        if ($value !== $amount) {
            throw Refused::because(
                "lines.$k.amount",
                \sprintf(
                    'Quantity × price is %s, the amount says %s; mend one of them.',
                    Money::of($value, $unit->code)->decimal(),
                    $row['amount'],
                ),
            );
        }

        return $price;
    }
}
