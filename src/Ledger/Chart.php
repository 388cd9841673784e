<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Symfony\Contracts\Service\ResetInterface;

/** Finds accounts of a company's chart by number, id or role. Read once a request; a chart is small. */
final class Chart implements ResetInterface
{
    /** @var array<int, array<int, array{id: int, number: string, name: string, type: string, role: ?string, retired: bool}>> */
    private array $byId = [];

    /** @var array<int, array<string, int>> */
    private array $byNumber = [];

    public function __construct(private readonly Connection $db)
    {
    }

    /** The roles of control accounts as SQL, for whoever reads accounts by the thousand. */
    public static function controls(): string
    {
        return "'".implode("', '", array_column(AccountRole::controls(), 'value'))."'";
    }

    /** @throws Refused when the company has no account in that role */
    public function role(int $companyId, AccountRole $role): int
    {
        // of several with the role the oldest is the company's own; the others are chosen by name
        $ids = array_column(
            array_filter(
                $this->accounts($companyId),
                static fn (array $a): bool => $a['role'] === $role->value && !$a['retired'],
            ),
            'id',
        );
        if ([] !== $ids) {
            return min($ids);
        }
        throw Refused::because(
            'account',
            \sprintf(
                'No account has the role “%s”; give it to one under Setup, Accounts.',
                str_replace('_', ' ', $role->value),
            ),
        );
    }

    /** @return array{id: int, number: string, name: string, type: string, role: ?string, retired: bool}|null null when none has the role */
    public function accountOf(int $companyId, AccountRole $role): ?array
    {
        try {
            return $this->account($companyId, $this->role($companyId, $role));
        } catch (Refused) {
            return null;
        }
    }

    /** @return array{id: int, number: string, name: string, type: string, role: ?string, retired: bool} */
    public function account(int $companyId, int $id): array
    {
        return $this->accounts($companyId)[$id] ??
            throw Refused::because('account', 'The account does not belong to this company.');
    }

    /**
     * Any account in use, a control account too: for bypass entries.
     *
     * @throws Refused when there is none or it is retired
     */
    public function any(int $companyId, string $number, string $field): int
    {
        $this->accounts($companyId);
        $id = $this->byNumber[$companyId][strtoupper($number)] ?? null;

        return null !== $id && !$this->byId[$companyId][$id]['retired']
            ? $id
            : throw Refused::because(
                $field,
                \sprintf('There is no account “%s” in use.', mb_strimwidth($number, 0, 30, '…')),
                ProblemKind::Unknown,
            );
    }

    /**
     * An account that a clerk or a file may name on a line.
     *
     * @throws Refused when there is none, it is retired or a control account
     */
    public function postable(int $companyId, string $number, string $field): int
    {
        $this->accounts($companyId);
        $id = $this->byNumber[$companyId][strtoupper($number)] ?? null;
        if (null === $id) {
            throw Refused::because(
                $field,
                \sprintf(
                    'There is no account %s; choose one of the chart of accounts.',
                    '' === $number ? 'given' : '“'.mb_strimwidth($number, 0, 30, '…').'”',
                ),
                ProblemKind::Unknown,
            );
        }
        $account = $this->byId[$companyId][$id];
        if ($account['retired']) {
            throw Refused::because(
                $field,
                \sprintf('Account %s %s is retired; choose another.', $number, $account['name']),
            );
        }
        if (null !== $account['role'] && AccountRole::from($account['role'])->isControl()) {
            throw Refused::because(
                $field,
                \sprintf(
                    'Account %s %s is a control account; it takes entries from its party ledger only. Choose another.',
                    $number,
                    $account['name'],
                ),
            );
        }

        return $id;
    }

    /**
     * An account for a line of an invoice or a delivery: bank accounts are moved by receipts, payments and journal entries only, and a
     * credit note is no way round the approval of a bad debt.
     *
     * @throws Refused as postable() does, and for a bank account or that of bad debts
     */
    public function ofLine(int $companyId, string $number, string $field): int
    {
        $id = $this->postable($companyId, $number, $field);
        $account = $this->byId[$companyId][$id];
        if (AccountRole::Bank->value === $account['role']) {
            throw Refused::because(
                $field,
                \sprintf(
                    'Account %s %s is a bank account; a receipt or a payment moves it. Choose another.',
                    $number,
                    $account['name'],
                ),
            );
        }
        if (\in_array($account['role'], [AccountRole::BadDebt->value, AccountRole::BadDebtAllowance->value], true)) {
            throw Refused::because(
                $field,
                \sprintf(
                    'Account %s %s takes bad debts, which are written off with a reason and up to a limit. Choose another.',
                    $number,
                    $account['name'],
                ),
            );
        }

        return $id;
    }

    public function isControl(int $companyId, int $id): bool
    {
        $role = $this->account($companyId, $id)['role'];

        return null !== $role && AccountRole::from($role)->isControl();
    }

    /**
     * @return array<int, array{id: int, number: string, name: string, type: string, role: ?string, retired: bool}> by id,
     *                                                                                                              in order of number
     */
    public function accounts(int $companyId): array
    {
        if (!isset($this->byId[$companyId])) {
            $this->byId[$companyId] = [];
            foreach (
                $this->db->fetchAllAssociative(
                    'SELECT id, number, name, type, role, retired FROM account WHERE company_id = ? ORDER BY number',
                    [$companyId],
                ) as $row
            ) {
                $id = (int) $row['id'];
                $this->byId[$companyId][$id] = [
                    'id' => $id,
                    'number' => (string) $row['number'],
                    'name' => (string) $row['name'],
                    'type' => (string) $row['type'],
                    'role' => null === $row['role'] ? null : (string) $row['role'],
                    'retired' => (bool) $row['retired'],
                ];
                $this->byNumber[$companyId][strtoupper((string) $row['number'])] = $id;
            }
        }

        return $this->byId[$companyId];
    }

    public function reset(): void
    {
        $this->byId = $this->byNumber = [];
    }
}
