<?php

declare(strict_types=1);

namespace Nelbix\App\Setup;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccount;
use Nelbix\App\Bank\CheckBook;
use Nelbix\App\Codes\PaymentTermRecord;
use Nelbix\App\Codes\TaxCodeRecord;
use Nelbix\App\Ledger\Account;
use Nelbix\App\Ledger\Period;
use Nelbix\App\People\Membership;
use Nelbix\App\People\Role;
use Nelbix\App\People\User;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\CompanySettings;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** A company with the standard chart, periods for the last, this and the next calendar year, tax codes, terms and one bank account. */
final readonly class CreateCompany
{
    /** number, name, type, role */
    private const CHART = [
        ['1000', 'Bank', 'asset', AccountRole::Bank],
        ['1200', 'Receivables control', 'asset', AccountRole::Receivables],
        ['1250', 'Vendor prepayments', 'asset', AccountRole::VendorPrepayments],
        ['1300', 'Input tax', 'asset', AccountRole::InputTax],
        ['1350', 'Withholding tax recoverable', 'asset', AccountRole::WithholdingRecoverable],
        ['1400', 'Inventory', 'asset', AccountRole::Inventory],
        ['1600', 'Equipment', 'asset', null],
        ['2100', 'Payables control', 'liability', AccountRole::Payables],
        ['2110', 'Received, not invoiced', 'liability', AccountRole::ReceivedNotInvoiced],
        ['2150', 'Customer prepayments', 'liability', AccountRole::CustomerPrepayments],
        ['2160', 'Refunds payable', 'liability', AccountRole::RefundsPayable],
        ['2200', 'Output tax', 'liability', AccountRole::OutputTax],
        ['2250', 'Withholding tax payable', 'liability', AccountRole::WithholdingPayable],
        ['3000', 'Equity', 'equity', null],
        ['4000', 'Sales', 'income', null],
        ['4100', 'Services', 'income', null],
        ['4200', 'Rent and storage', 'income', null],
        ['4700', 'Finance charge income', 'income', AccountRole::FinanceChargeIncome],
        ['4800', 'Bad debts recovered', 'income', AccountRole::BadDebtsRecovered],
        ['4900', 'Discounts allowed', 'income', AccountRole::DiscountsAllowed],
        ['5000', 'Materials', 'expense', null],
        ['5100', 'Subcontractors', 'expense', null],
        ['5200', 'Freight in', 'expense', null],
        ['5500', 'Cost of sales', 'expense', AccountRole::CostOfSales],
        ['5800', 'Price variance', 'expense', AccountRole::PriceVariance],
        ['5900', 'Discounts received', 'expense', AccountRole::DiscountsReceived],
        ['6000', 'Rent', 'expense', null],
        ['6100', 'Power and fuel', 'expense', null],
        ['6200', 'Insurance', 'expense', null],
        ['6300', 'Repairs', 'expense', null],
        ['6400', 'Office', 'expense', null],
        ['6500', 'Travel', 'expense', null],
        ['6800', 'Bank charges', 'expense', AccountRole::BankCharges],
        ['6850', 'Small differences', 'expense', AccountRole::SmallDifferences],
        ['6900', 'Bad debt expense', 'expense', AccountRole::BadDebt],
        ['7900', 'Realised exchange differences', 'expense', AccountRole::ExchangeRealised],
        ['7950', 'Unrealised exchange differences', 'expense', AccountRole::ExchangeUnrealised],
    ];

    /** code, text, used by, spec */
    private const TERMS = [
        ['NOW', 'due at once', 'both', ['net' => '0']],
        ['N10', 'net 10 days', 'both', ['net' => '10']],
        ['N30', 'net 30 days', 'both', ['net' => '30']],
        ['N60', 'net 60 days', 'both', ['net' => '60']],
        ['2-10-N30', '2 % within 10 days, net 30', 'both', ['net' => '30', 'discounts' => '2@10']],
        [
            '3-10-2-20-N45',
            '3 % within 10 days, 2 % within 20, net 45',
            'vendors',
            ['net' => '45', 'discounts' => '3@10 2@20'],
        ],
        ['1-14-N45', '1 % within 14 days, net 45', 'customers', ['net' => '45', 'discounts' => '1@14']],
        ['MONTH10', 'day 10 of the next month', 'both', ['net' => '+1m10']],
        ['THIRDS', '30 % in 30 days, 30 % in 60, 40 % in 90', 'both', ['instalments' => '30@30 30@60 40@90']],
    ];

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ClockInterface $clock,
        private Settings $settings,
    ) {
    }

    /**
     * @return int the company's id
     *
     * @throws Refused
     */
    public function create(string $code, string $name, string $baseCurrency, ?Day $around = null): int
    {
        if (1 !== preg_match('/\A[A-Z0-9]{2,12}\z/', $code)) {
            throw Refused::because(
                'code',
                \sprintf(
                    '“%s” is not a company code; 2 to 12 capital letters or digits are.',
                    mb_strimwidth($code, 0, 30, '…'),
                ),
            );
        }
        if ('' === trim($name) || mb_strlen($name) > 120) {
            throw Refused::because('name', 'Give the company a name of up to 120 characters.');
        }
        $offered = CompanySettings::offered(Currency::of($baseCurrency));

        return $this->transaction->run(function () use ($code, $name, $baseCurrency, $around, $offered): int {
            if (null !== $this->entities->getRepository(Company::class)->findOneBy(['code' => $code])) {
                throw Refused::because('code', \sprintf('There is a company %s already; choose another code.', $code));
            }
            $company = new Company($code, $name, $baseCurrency);
            $this->entities->persist($company);
            $console = $this->consoleUser();
            $this->entities->persist(new Membership($console, $company, Role::Controller));
            $this->entities->flush();
            $id = $company->id();
            $this->settings->keep($id, $offered);
            /** @var array<string, Account> $accounts */
            $accounts = [];
            foreach (self::CHART as [$number, $accountName, $type, $role]) {
                $accounts[$number] = new Account($id, $number, $accountName, $type, $role);
                $this->entities->persist($accounts[$number]);
            }
            foreach (self::TERMS as [$termCode, $text, $usedBy, $spec]) {
                $this->entities->persist(
                    new PaymentTermRecord(
                        $id,
                        $termCode,
                        $text,
                        $usedBy,
                        array_merge(['runs_from' => 'document'], $spec),
                    ),
                );
            }
            $year = ($around ?? Day::fromDateTime($this->clock->now()))->year;
            for ($y = $year - 1; $y <= $year + 1; ++$y) {
                for ($m = 1; $m <= 12; ++$m) {
                    $first = Day::ymd($y, $m, 1);
                    $this->entities->persist(new Period($id, $y, $m, $first, $first->endOfMonth()));
                }
            }
            $this->entities->flush();
            $tax = static fn (
                string $c,
                string $t,
                string $rate,
                string $account,
                string $use,
            ): TaxCodeRecord => new TaxCodeRecord($id, $c, $t, $rate, $accounts[$account]->id(), $use);
            foreach (
                [
                    $tax('P8', 'Purchase tax 8 %', '8', '1300', 'purchase'),
                    $tax('P0', 'Purchases without tax', '0', '1300', 'purchase'),
                    $tax('S8', 'Sales tax 8 %', '8', '2200', 'sale'),
                    $tax('S0', 'Sales without tax', '0', '2200', 'sale'),
                ] as $record
            ) {
                $this->entities->persist($record);
            }
            $bank = new BankAccount($id, $accounts['1000']->id(), '1000', 'Bank', $baseCurrency);
            $this->entities->persist($bank);
            $this->entities->flush();
            $this->entities->persist(new CheckBook($bank->id(), 'Checks', 1001, 1001));

            return $id;
        });
    }

    /** The user that commands act as: a controller who cannot sign in. */
    public function consoleUser(): User
    {
        $user = $this->entities->getRepository(User::class)->findOneBy(['username' => 'console']);
        if (null === $user) {
            $user = new User('console', 'Console');
            $this->entities->persist($user);
        }

        return $user;
    }
}
