<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

/** Finds what a vendor's paper names among what was delivered and what is to come. */
final readonly class FindGoods
{
    public function __construct(
        private AccruedLines $accrued,
        private OrderedLines $ordered,
        private AwaitedLines $awaited,
    ) {
    }

    /** @param list<string> $numbers of orders, notes and deliveries that the paper names */
    public function pool(int $companyId, int $partyId, string $currency, array $numbers): GoodsPool
    {
        $came = $toCome = [];
        // as they are written first; then among all of the vendor's, since papers spell numbers in their own way
        foreach ([array_unique(array_filter($numbers)), ['']] as $tries) {
            foreach ([] === $came + $toCome ? $tries : [] as $number) {
                $came += $this->accrued->ofVendor($companyId, $partyId, $number);
                $toCome += $this->ordered->toCome($companyId, $partyId, $number, null);
            }
        }
        $waiting = $this->awaited->quantities(array_keys($toCome));
        $pool = new GoodsPool();
        foreach ($came as $line) {
            if ($line->currency === $currency) {
                $pool->add($line, $line->left->quantity);
            }
        }
        foreach ($toCome as $id => $line) {
            $left = AwaitedBook::leftOf($line, $waiting[$id] ?? null);
            if ($line->currency === $currency && $left->isPositive()) {
                $pool->add($line, $left);
            }
        }

        return $pool;
    }
}
