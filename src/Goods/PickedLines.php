<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\Exclude;
use Symfony\Component\HttpFoundation\Request;

/** Lines that a person picked in a list, with the quantity that stood beside each: what is decided on is what was seen. */
#[Exclude]
final class PickedLines
{
    /**
     * @return array<int, BigDecimal|null> the quantity that was seen, by line; null when the page did not say
     *
     * @throws Refused when a quantity is none
     */
    public static function of(Request $request): array
    {
        $seen = $request->request->all()['seen'] ?? [];
        $lines = [];
        foreach ((array) ($request->request->all()['lines'] ?? []) as $id) {
            $id = \is_string($id) ? (int) $id : 0;
            $quantity = \is_array($seen) && \is_string($seen[$id] ?? null) ? $seen[$id] : '';
            if ($id > 0) {
                $lines[$id] = '' === $quantity ? null : DeliveryReader::number($quantity, 4, 'quantity', 'lines');
            }
        }

        return $lines;
    }
}
