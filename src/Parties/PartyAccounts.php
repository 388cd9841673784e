<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\Chart;
use Nelbix\Core\Ledger\Side;

/** The control and the prepayment account that a party's items stand on: its own, else the company's. */
final readonly class PartyAccounts
{
    public function __construct(private Connection $db, private Chart $chart)
    {
    }

    public function control(int $companyId, Side $side, ?int $partyId): int
    {
        return $this->own('control_account_id', $companyId, $partyId) ?? $this->chart->role($companyId, $side->controlRole());
    }

    public function prepayments(int $companyId, Side $side, ?int $partyId): int
    {
        return $this->own('prepayment_account_id', $companyId, $partyId) ?? $this->chart->role($companyId, $side->prepaymentRole());
    }

    private function own(string $column, int $companyId, ?int $partyId): ?int
    {
        $id = null === $partyId ? null : $this->db->fetchOne('SELECT '.$column.' FROM party WHERE id = ? AND company_id = ?', [$partyId, $companyId]);

        return is_numeric($id) ? (int) $id : null;
    }
}
