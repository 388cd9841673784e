<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/**
 * What a vendor delivered and nobody invoiced, the oldest first, and then what is to come. What was found once is taken out, so that two
 * lines of a paper do not find the same.
 */
#[Exclude]
final class GoodsPool
{
    /** @var list<array{of: AccruedLine|OrderedLine, left: BigDecimal}> */
    private array $entries = [];

    public function add(AccruedLine|OrderedLine $line, BigDecimal $left): void
    {
        $this->entries[] = ['of' => $line, 'left' => $left];
    }

    /**
     * The goods that are meant: of the order or the note that the paper names; which line of it says the line's number, else its words,
     * else its price, each only if exactly one fits.
     *
     * @return list<FoundGoods> what was delivered first; together at most the quantity; empty when it is not clear which are meant
     */
    public function take(WantedGoods $wanted): array
    {
        $of = array_filter(
            $this->entries,
            static fn (array $e): bool => $e['left']->isPositive() && self::isNamed($e['of'], $wanted),
        );
        $fits = self::which($of, $wanted);
        $found = [];
        $left = $wanted->quantity;
        foreach (array_keys($fits) as $k) {
            $part = BigDecimal::min($left, $this->entries[$k]['left']);
            if (!$part->isPositive()) {
                break;
            }
            $found[] = new FoundGoods($this->entries[$k]['of'], $part->stripTrailingZeros());
            $this->entries[$k]['left'] = $this->entries[$k]['left']->minus($part);
            $left = $left->minus($part);
        }

        return $found;
    }

    private static function isNamed(AccruedLine|OrderedLine $line, WantedGoods $wanted): bool
    {
        $plain = static fn (string $n): string => mb_strtoupper((string) preg_replace('/[^\p{L}\p{N}]+/u', '', $n));
        $same = static fn (string $a, string $b): bool => '' !== $plain($a) && $plain($a) === $plain($b);

        return $same($wanted->order, $line->order)
            || ($line instanceof AccruedLine
                && ($same($wanted->note, $line->note) || $same($wanted->note, $line->delivery)));
    }

    /**
     * @param array<int, array{of: AccruedLine|OrderedLine, left: BigDecimal}> $entries
     *
     * @return array<int, array{of: AccruedLine|OrderedLine, left: BigDecimal}> those of one line of an order, or of one delivery
     */
    private static function which(array $entries, WantedGoods $wanted): array
    {
        $text = static fn (string $t): string => mb_strtolower((string) preg_replace('/\W+/u', ' ', trim($t)));
        $tests = [
            static fn (AccruedLine|OrderedLine $l): bool => null !== $wanted->position
                && self::position($l) === $wanted->position,
            static fn (AccruedLine|OrderedLine $l): bool => $text($l->text) === $text($wanted->text),
            static fn (AccruedLine|OrderedLine $l): bool => null !== $wanted->price
                && $l->price->isEqualTo($wanted->price),
        ];
        foreach ($tests as $test) {
            $fit = array_filter($entries, static fn (array $e): bool => $test($e['of']));
            if (1 === \count(array_unique(array_map(static fn (array $e): string => self::key($e['of']), $fit)))) {
                return $fit;
            }
        }

        return [];
    }

    private static function position(AccruedLine|OrderedLine $line): int
    {
        return $line instanceof AccruedLine ? $line->orderPosition : $line->position;
    }

    /** What came of a line of an order, in however many deliveries, is the same goods. */
    private static function key(AccruedLine|OrderedLine $line): string
    {
        $order = $line instanceof AccruedLine ? $line->orderLine : $line->id;

        return null === $order ? 'delivery '.$line->id : 'order '.$order;
    }
}
