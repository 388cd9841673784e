<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\GivenUp;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\InvoiceEntry;

/** The company's limits as the board needs them: in its currency, and before anything is posted. GivenUp refuses what slips by. */
final readonly class BoardLimits
{
    public function __construct(private GivenUp $givenUp, private Rates $rates, private Settings $settings)
    {
    }

    /** What one person may let go alone, in the board's currency; more where there is no rate is refused on posting. */
    public function alone(Desk $desk, string $currency, Day $date): int
    {
        return $this->into($desk, $this->givenUp->limit($desk->actor), $currency, $date);
    }

    /** What banks on the way may have kept, in the board's currency. */
    public function mostCharge(Desk $desk, string $currency, Day $date): int
    {
        $most = $this->settings->of($desk->id())->amount('bank_charge_most', $desk->company->baseCurrency);

        return $this->into($desk, $most, $currency, $date);
    }

    /** Base money in another currency, rounded down; 0 where there is no rate. */
    private function into(Desk $desk, int $limit, string $currency, Day $date): int
    {
        $rate = $this->rates->find($desk->id(), $currency, $desk->company->baseCurrency, $date);
        $one = null === $rate ? 0 : InvoiceEntry::base(1_000_000, $currency, $desk->company->baseCurrency, $rate);

        return $one <= 0 ? 0 : intdiv($limit * 1_000_000, $one);
    }

    /**
     * Whether what is let go, with what was before, is more than one person may let go alone. A small difference has its own tolerance.
     *
     * @param array<int, AdjustmentRequest> $letGo by item
     */
    public function isMuch(Desk $desk, array $letGo, string $currency, Day $date): bool
    {
        $letGo = array_filter($letGo, static fn (AdjustmentRequest $a): bool => $a->kind->isGivenUp());
        if ([] === $letGo) {
            return false;
        }
        $base = $desk->company->baseCurrency;
        $rate = $this->rates->find($desk->id(), $currency, $base, $date);
        $sum = -array_sum(array_column($letGo, 'amount'));

        return null === $rate
            || $this->givenUp->before(array_keys($letGo)) + InvoiceEntry::base($sum, $currency, $base, $rate) >
                $this->givenUp->limit($desk->actor);
    }
}
