<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\Records;

use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\SaveBankAccount;
use Nelbix\App\Platform\Actor;

/** The company's own bank accounts. */
final readonly class BankAccountRecords implements RecordKind
{
    public function __construct(private Connection $db, private SaveBankAccount $saveBankAccount)
    {
    }

    public function kinds(): array
    {
        return ['bank-accounts' => ['title' => 'Bank accounts', 'one' => 'bank account']];
    }

    public function fields(string $kind): array
    {
        return [
            new RecordField('code', 'Code', 'w-code', fixed: true),
            new RecordField('name', 'Name'),
            new RecordField('currency', 'Currency', 'w-code', fixed: true),
            new RecordField(
                'account',
                'Account of the chart',
                'w-code',
                fixed: true,
                pick: 'account',
                note: 'An account with the role bank that no other bank account has.',
            ),
            new RecordField('iban', 'IBAN', shown: false),
            new RecordField('bic', 'BIC', 'w-date', false),
            new RecordField('routing_number', 'Routing number', 'w-date', false),
            new RecordField('account_number', 'Account number', 'w-date', false),
            new RecordField(
                'company_number',
                'The bank knows us by',
                'w-date',
                false,
                note: 'Our number in ACH files.',
            ),
            new RecordField(
                'balanced',
                'ACH files debit this account',
                shown: false,
                choices: ['' => 'no, the bank does', 'yes' => 'yes'],
            ),
            new RecordField(
                'first_check',
                'Check book from number',
                'w-date',
                false,
                fixed: true,
                note: 'Empty: no checks are drawn on it.',
            ),
        ];
    }

    public function rows(int $companyId, string $kind): array
    {
        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'retired' => (bool) $r['retired'],
                'values' => [
                    'code' => (string) $r['code'],
                    'name' => (string) $r['name'],
                    'currency' => (string) $r['currency'],
                    'account' => (string) $r['account'],
                    'iban' => (string) $r['iban'],
                    'bic' => (string) $r['bic'],
                    'routing_number' => (string) $r['routing_number'],
                    'account_number' => (string) $r['account_number'],
                    'company_number' => (string) $r['company_number'],
                    'balanced' => (bool) $r['balanced'] ? 'yes' : '',
                    'first_check' => (string) $r['first_check'],
                ],
            ],
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT b.id, b.code, b.name, b.currency, b.iban, b.bic, b.routing_number, b.account_number, b.company_number,
                    b.balanced, b.retired, a.number AS account, (SELECT MIN(k.first_number) FROM check_book k
                    WHERE k.bank_account_id = b.id) AS first_check
                FROM bank_account b
                JOIN account a ON a.id = b.account_id
                WHERE b.company_id = ?
                ORDER BY b.code
                SQL
                ,
                [$companyId],
            ),
        );
    }

    public function save(Actor $actor, string $kind, array $raw, ?int $id): int
    {
        return $this->saveBankAccount->save($actor, $raw, $id);
    }
}
