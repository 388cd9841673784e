<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\App\Bank\BankRow;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Ledger\AccountRole;

/** Where what a line and a record differ by most likely goes: a small difference, or what a bank on the way kept. */
final readonly class Differences
{
    public function __construct(private Chart $chart, private Settings $settings)
    {
    }

    /** @return string the account's number; empty when nothing is likely */
    public function account(int $companyId, BankRow $bank, int $off): string
    {
        $settings = $this->settings->of($companyId);
        $role = match (true) {
            abs($off) <= $settings->amount('tolerance_amount', $bank->currency) => AccountRole::SmallDifferences,
            $off < 0 && -$off <= $settings->amount('bank_charge_most', $bank->currency) => AccountRole::BankCharges,
            default => null,
        };
        $account = null === $role ? null : $this->chart->accountOf($companyId, $role);

        return $account['number'] ?? '';
    }
}
