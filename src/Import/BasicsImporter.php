<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\SaveBankAccount;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Ledger\SaveAccount;
use Nelbix\App\Ledger\SaveAnalysisCode;
use Nelbix\App\Ledger\SaveRate;
use Nelbix\App\Parties\SaveReminderLadder;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Setup\SaveTaxCode;
use Nelbix\App\Setup\SaveTerm;
use Nelbix\Core\Calendar\Day;

/** Accounts, analysis codes, bank accounts, payment terms, tax codes and exchange rates from files. */
final readonly class BasicsImporter implements CsvImporter
{
    private const COLUMNS = [
        'accounts' => [['number', 'name', 'type'], ['role', 'currency']],
        'terms' => [['code', 'text', 'use', 'runs_from', 'net'], ['windows', 'discounts', 'instalments', 'grace_days']],
        'tax-codes' => [
            ['code', 'text', 'rate', 'account', 'use'],
            [
                'inclusive',
                'recoverable_percent',
                'reverse_account',
                'discount_corrects_tax',
                'bad_debt_corrects_tax',
                'taxes_prepayments',
            ],
        ],
        'cost-centers' => [['code', 'name'], []],
        'departments' => [['code', 'name'], []],
        'projects' => [['code', 'name'], []],
        'bank-accounts' => [
            ['code', 'name', 'account'],
            [
                'currency',
                'iban',
                'bic',
                'routing_number',
                'account_number',
                'company_number',
                'balanced',
                'first_check',
            ],
        ],
        'reminder-ladders' => [['code', 'name', 'rungs'], []],
        'rates' => [['date', 'from', 'to', 'rate'], []],
    ];

    public function __construct(
        private EntityManagerInterface $entities,
        private SaveAccount $saveAccount,
        private SaveTerm $saveTerm,
        private SaveTaxCode $saveTaxCode,
        private SaveBankAccount $saveBankAccount,
        private SaveAnalysisCode $saveAnalysisCode,
        private SaveReminderLadder $saveReminderLadder,
        private SaveRate $saveRate,
    ) {
    }

    public function kinds(): array
    {
        return array_keys(self::COLUMNS);
    }

    public function required(string $kind): array
    {
        return self::COLUMNS[$kind][0];
    }

    public function optional(string $kind): array
    {
        return self::COLUMNS[$kind][1];
    }

    public function key(string $kind): array
    {
        return [];
    }

    public function together(string $kind): array
    {
        return [];
    }

    public function take(Actor $actor, string $kind, array $rows, bool $approved): array
    {
        $row = $rows[0];
        match ($kind) {
            'accounts' => $this->saveAccount->save($actor, $row),
            'terms' => $this->saveTerm->save($actor, $row),
            'tax-codes' => $this->saveTaxCode->save($actor, $row),
            'bank-accounts' => $this->saveBankAccount->save($actor, $row),
            'reminder-ladders' => $this->saveReminderLadder->save($actor, $row),
            'rates' => $this->rate($actor, $row),
            default => $this->saveAnalysisCode->save($actor, $kind, $row),
        };
        $this->entities->flush();

        return [];
    }

    /** @param array<string, string> $row */
    private function rate(Actor $actor, array $row): void
    {
        $this->saveRate->save(
            $actor,
            Day::of($row['date']),
            $row['from'],
            $row['to'],
            InvoiceReader::rate($row['rate']),
            'file',
        );
    }
}
