<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\NewCompany;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccount;
use Nelbix\App\Bank\CheckBook;
use Nelbix\App\Codes\PaymentTermRecord;
use Nelbix\App\Codes\TaxCodeRecord;
use Nelbix\App\Ledger\Account;
use Nelbix\App\Ledger\Period;
use Nelbix\App\Parties\Nobody;
use Nelbix\App\People\Membership;
use Nelbix\App\People\Role;
use Nelbix\App\People\User;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\CompanySettings;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Calendar\FiscalYear;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** A company with the standard chart, periods for the last, this and the next year, and the template's tax codes and terms. */
final readonly class CreateCompany
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ClockInterface $clock,
        private Settings $settings,
        private Nobody $nobody,
    ) {
    }

    /**
     * @return int the company's id
     *
     * @throws Refused
     */
    public function create(
        string $code,
        string $name,
        string $baseCurrency,
        ?Day $around = null,
        ?CompanyTemplate $template = null,
        int $firstMonth = 1,
    ): int {
        $template ??= CompanyTemplate::sample();
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
        $offered = [...CompanySettings::offered(Currency::of($baseCurrency)), 'date_order' => $template->dateOrder];
        $around ??= Day::fromDateTime($this->clock->now());

        return $this->transaction->run(function () use (
            $code,
            $name,
            $baseCurrency,
            $around,
            $template,
            $offered,
            $firstMonth,
        ): int {
            if (null !== $this->entities->getRepository(Company::class)->findOneBy(['code' => $code])) {
                throw Refused::because('code', \sprintf('There is a company %s already; choose another code.', $code));
            }
            $company = new Company($code, $name, $baseCurrency);
            $company->firstMonth = $firstMonth;
            $this->entities->persist($company);
            $console = $this->consoleUser();
            $this->entities->persist(new Membership($console, $company, Role::Controller));
            $this->entities->flush();
            $id = $company->id();
            $this->settings->keep($id, $offered);
            $accounts = $this->chart($id);
            $this->nobody->make($id, $accounts[StandardChart::UNIDENTIFIED]);
            foreach ($template->terms as [$termCode, $text, $usedBy, $spec]) {
                $this->entities->persist(
                    new PaymentTermRecord($id, $termCode, $text, $usedBy, ['runs_from' => 'document', ...$spec]),
                );
            }
            foreach ($template->taxCodes as $row) {
                $this->entities->persist(self::taxCode($id, $accounts, $row));
            }
            $this->periods($id, FiscalYear::of($around, $firstMonth), $firstMonth);
            $bank = new BankAccount($id, $accounts[StandardChart::BANK], StandardChart::BANK, 'Bank', $baseCurrency);
            $this->entities->persist($bank);
            $this->entities->flush();
            if ($template->checks) {
                $this->entities->persist(new CheckBook($bank->id(), 'Checks', 1001, 1001));
            }

            return $id;
        });
    }

    /** @return array<int, int> ids by number */
    private function chart(int $companyId): array
    {
        $accounts = [];
        foreach (StandardChart::ACCOUNTS as [$number, $name, $type, $role]) {
            $accounts[$number] = new Account($companyId, $number, $name, $type, $role);
            $this->entities->persist($accounts[$number]);
        }
        $this->entities->flush();

        return array_map(static fn (Account $a): int => $a->id(), $accounts);
    }

    /** The year before, the year itself and the one after. */
    private function periods(int $companyId, int $year, int $firstMonth): void
    {
        for ($y = $year - 1; $y <= $year + 1; ++$y) {
            $first = FiscalYear::firstDay($y, $firstMonth);
            for ($n = 1; $n <= 12; ++$n) {
                $this->entities->persist(new Period($companyId, $y, $n, $first, $first->endOfMonth()));
                $first = $first->endOfMonth()->plusDays(1);
            }
        }
    }

    /**
     * @param array<int, int> $accounts ids by number
     * @param array{code: string, text: string, rate: string, use: string, reverse: bool, corrects: bool} $row
     */
    private static function taxCode(int $companyId, array $accounts, array $row): TaxCodeRecord
    {
        $purchase = 'purchase' === $row['use'];

        return new TaxCodeRecord(
            $companyId,
            $row['code'],
            $row['text'],
            $row['rate'],
            $accounts[$purchase ? StandardChart::INPUT_TAX : StandardChart::OUTPUT_TAX],
            $row['use'],
            reverseAccountId: $row['reverse'] ? $accounts[StandardChart::OUTPUT_TAX] : null,
            discountCorrectsTax: $row['corrects'],
        );
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
