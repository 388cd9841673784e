<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Parties\PartyProfile;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\Side;

/** Vendors and customers from files. */
final readonly class PartyImporter implements CsvImporter
{
    public function __construct(private SaveParty $saveParty)
    {
    }

    public function kinds(): array
    {
        return ['vendors', 'customers'];
    }

    public function required(string $kind): array
    {
        return ['code', 'name'];
    }

    public function optional(string $kind): array
    {
        return [
            'terms',
            'currency',
            'method',
            'tax_number',
            'street',
            'city',
            'country',
            'email',
            'default_account',
            'if_late',
            'separate_payments',
            'iban',
            'bic',
            'routing_number',
            'account_number',
            'credit_limit',
            'tax_code',
            'cost_center',
            'department',
            'project',
            'salesperson',
            'commission_percent',
            ...PartyProfile::COLUMNS,
        ];
    }

    public function key(string $kind): array
    {
        return [];
    }

    public function together(string $kind): array
    {
        return ['code'];
    }

    public function take(Actor $actor, string $kind, array $rows, bool $approved): array
    {
        $this->saveParty->save(
            $actor,
            'vendors' === $kind ? Side::Payables : Side::Receivables,
            $rows[0],
            null,
            $approved,
        );

        return [];
    }
}
