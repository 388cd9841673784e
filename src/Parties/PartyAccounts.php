<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\AccountInUse;
use Nelbix\App\Ledger\Chart;
use Nelbix\Core\Ledger\Side;
use Symfony\Contracts\Service\ResetInterface;

/** The control and the prepayment account that a party's items stand on: its own, else the company's. */
final class PartyAccounts implements AccountInUse, ResetInterface
{
    /** @var array<int, array<string, array<int, ?int>>> company, column, party */
    private array $own = [];

    public function __construct(private readonly Connection $db, private readonly Chart $chart)
    {
    }

    public function control(int $companyId, Side $side, ?int $partyId): int
    {
        return $this->own('control_account_id', $companyId, $partyId) ??
            $this->chart->role($companyId, $side->controlRole());
    }

    public function prepayments(int $companyId, Side $side, ?int $partyId): int
    {
        return $this->own('prepayment_account_id', $companyId, $partyId) ??
            $this->chart->role($companyId, $side->prepaymentRole());
    }

    public function byParty(int $accountId): bool
    {
        return false !==
            $this->db->fetchOne('SELECT 1 FROM party WHERE ? IN (control_account_id, prepayment_account_id) LIMIT 1', [
                $accountId,
            ]);
    }

    /** A run asks for hundreds of parties; the few that have accounts of their own are read once. */
    private function own(string $column, int $companyId, ?int $partyId): ?int
    {
        if (!isset($this->own[$companyId])) {
            $this->own[$companyId] = [];
            foreach (
                $this->db->fetchAllAssociative(
                    <<<'SQL'
                    SELECT id, control_account_id, prepayment_account_id
                    FROM party
                    WHERE company_id = ? AND (control_account_id IS NOT NULL OR prepayment_account_id IS NOT NULL)
                    SQL
                    ,
                    [$companyId],
                ) as $r
            ) {
                foreach (['control_account_id', 'prepayment_account_id'] as $key) {
                    $this->own[$companyId][$key][(int) $r['id']] = null === $r[$key] ? null : (int) $r[$key];
                }
            }
        }

        return $this->own[$companyId][$column][$partyId] ?? null;
    }

    public function reset(): void
    {
        $this->own = [];
    }
}
