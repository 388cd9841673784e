<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\NewCompany;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Refused;

/** What a new company still needs, until its controller puts the list away. */
final readonly class FirstSteps
{
    /** text, what one does there, route, parameters */
    private const STEPS = [
        'bank' => [
            'Our account at the bank, and a check book if you pay by check',
            'Fill it in',
            'records',
            ['kind' => 'bank-accounts'],
        ],
        'accounts' => ['Accounts: look them over, or bring your own', 'Look', 'records', ['kind' => 'accounts']],
        'tax' => ['Tax codes and their rates: check them', 'Check', 'records', ['kind' => 'tax-codes']],
        'people' => ['Somebody who approves; nobody approves their own work', 'Add people', 'people', []],
        'vendors' => ['Vendors', 'Import them', 'import', ['kind' => 'vendors']],
        'customers' => ['Customers', 'Import them', 'import', ['kind' => 'customers']],
        'day' => ['The day as of which the books are taken over', 'Choose it', 'take_over', []],
        'payables' => ['What was open to vendors on that day', 'Import it', 'import', ['kind' => 'opening-payables']],
        'receivables' => ['What was open with customers', 'Import it', 'import', ['kind' => 'opening-receivables']],
        'balances' => ['What the other accounts held', 'Import it', 'import', ['kind' => 'opening-balances']],
    ];

    public function __construct(
        private Connection $db,
        private Transaction $transaction,
        private EntityManagerInterface $entities,
    ) {
    }

    /** @return list<FirstStep> none once the list is put away */
    public function of(Company $company): array
    {
        if (null === $company->firstSteps) {
            return [];
        }
        $found = $this->found($company);
        $marked = explode(',', $company->firstSteps);
        $steps = [];
        foreach (self::STEPS as $key => [$text, $do, $route, $parameters]) {
            $steps[] = new FirstStep(
                $key,
                $text,
                $do,
                $route,
                $parameters,
                $found[$key] ?? false,
                \in_array($key, $marked, true),
            );
        }

        return $steps;
    }

    /** @throws Refused when there is no such step */
    public function mark(Actor $actor, string $key, bool $done): void
    {
        if (!isset(self::STEPS[$key])) {
            throw Refused::because('step', 'There is no such step on the list.');
        }
        $this->change(
            $actor,
            static fn (array $marked): array => $done
                ? [...array_diff($marked, [$key]), $key]
                : array_diff($marked, [$key]),
        );
    }

    public function putAway(Actor $actor): void
    {
        $this->change($actor, static fn (): ?array => null);
    }

    /** @param callable(list<string>): ?array<string> $change */
    private function change(Actor $actor, callable $change): void
    {
        $this->transaction->run(function () use ($actor, $change): void {
            $company =
                $this->entities->find(Company::class, $actor->companyId, LockMode::PESSIMISTIC_WRITE) ??
                throw new \LogicException();
            if (null === $company->firstSteps) {
                return;
            }
            $marked = $change(array_values(array_filter(explode(',', $company->firstSteps))));
            $company->firstSteps = null === $marked ? null : implode(',', $marked);
        });
    }

    /** @return array<string, bool> what the books show as done */
    private function found(Company $company): array
    {
        $row = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT
                EXISTS (SELECT 1 FROM bank_account WHERE company_id = :c AND (iban <> '' OR account_number <> '')) AS bank,
                EXISTS (
                    SELECT 1
                    FROM membership m
                    JOIN app_user u ON u.id = m.user_id AND u.retired = 0
                    WHERE m.company_id = :c AND m.role = 'approver'
                ) AS people,
                EXISTS (SELECT 1 FROM party WHERE company_id = :c AND side = 'payables') AS vendors,
                EXISTS (SELECT 1 FROM party WHERE company_id = :c AND side = 'receivables' AND nobody = 0) AS customers,
                MAX(d.side = 'payables') AS payables, MAX(d.side = 'receivables') AS receivables,
                MAX(e.id IS NOT NULL AND e.source_id IS NULL) AS balances
            FROM account a
            LEFT JOIN journal_line l ON l.account_id = a.id
            LEFT JOIN journal_entry e ON e.id = l.entry_id
            LEFT JOIN document d ON d.id = e.source_id AND e.source_kind = 'document'
            WHERE a.company_id = :c AND a.role = :opening
            SQL
            ,
            ['c' => $company->id(), 'opening' => AccountRole::OpeningBalances->value],
        );

        return [
            ...array_map(static fn (mixed $v): bool => 1 === (int) $v, false === $row ? [] : $row),
            'day' => null !== $company->openingDay,
        ];
    }
}
