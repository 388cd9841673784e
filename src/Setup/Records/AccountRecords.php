<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\Records;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\SaveAccount;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\AccountRole;

/** The chart of accounts. */
final readonly class AccountRecords implements RecordKind
{
    public function __construct(private Connection $db, private SaveAccount $saveAccount)
    {
    }

    public function kinds(): array
    {
        return ['accounts' => ['title' => 'Accounts', 'one' => 'account']];
    }

    public function fields(string $kind): array
    {
        $roles = ['' => 'none'];
        foreach (AccountRole::cases() as $role) {
            $roles[$role->value] = str_replace('_', ' ', $role->value);
        }

        return [
            new RecordField('number', 'Number', 'w-code', fixed: true),
            new RecordField('name', 'Name'),
            new RecordField('type', 'Type', choices: array_combine(SaveAccount::TYPES, SaveAccount::TYPES)),
            new RecordField('role', 'Role', choices: $roles, note: 'What the account does for Nelbix; most have none.'),
            new RecordField('currency', 'Currency', 'w-code', false),
        ];
    }

    public function rows(int $companyId, string $kind): array
    {
        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'retired' => (bool) $r['retired'],
                'values' => [
                    'number' => (string) $r['number'],
                    'name' => (string) $r['name'],
                    'type' => (string) $r['type'],
                    'role' => (string) $r['role'],
                    'currency' => (string) $r['currency'],
                ],
            ],
            $this->db->fetchAllAssociative(
                'SELECT id, number, name, type, role, currency, retired FROM account WHERE company_id = ? ORDER BY number',
                [$companyId],
            ),
        );
    }

    public function save(Actor $actor, string $kind, array $raw, ?int $id): int
    {
        return $this->saveAccount->save($actor, $raw, $id);
    }
}
