<?php

declare(strict_types=1);

namespace Nelbix\Core\Matching;

use Brick\Math\BigDecimal;

/** Compares an invoice with what was ordered and received. Source: rules.md, Matching: what is over is held with each reason. */
final class ThreeWayMatch
{
    /**
     * @param list<Compared> $lines
     * @param bool $onlyOrdered what nobody ordered is over
     *
     * @return list<array{key: int|string|null, over: Over}> each reason once a line; the total has no line
     */
    public static function over(array $lines, Tolerances $within, bool $onlyOrdered): array
    {
        $over = [];
        $sum = BigDecimal::zero();
        foreach ($lines as $line) {
            $sum = $sum->plus($line->difference);
            foreach (
                [
                    [Over::NotOrdered, null === $line->agreed && $onlyOrdered],
                    [Over::NotReceived, !$line->received],
                    [Over::Price, null !== $line->agreed && !$within->price->allows($line->agreed, $line->invoiced)],
                    [
                        Over::Quantity,
                        null !== $line->ordered && !$within->quantity->allows($line->ordered, $line->total),
                    ],
                ] as [$reason, $is]
            ) {
                if ($is) {
                    $over[] = ['key' => $line->key, 'over' => $reason];
                }
            }
        }
        if (null !== $within->total && $sum->isGreaterThan($within->total)) {
            $over[] = ['key' => null, 'over' => Over::Total];
        }

        return $over;
    }
}
