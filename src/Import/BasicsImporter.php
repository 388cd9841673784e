<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Brick\Math\BigDecimal;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Documents\InvoiceReader;
use Nelbix\App\Documents\Lookup;
use Nelbix\App\Ledger\Account;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\ExchangeRate;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Setup\PaymentTermRecord;
use Nelbix\App\Setup\TaxCodeRecord;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Nelbix\Core\Terms\PaymentTerm;

/** Accounts, payment terms, tax codes and exchange rates from files. */
final readonly class BasicsImporter implements CsvImporter
{
    private const COLUMNS = [
        'accounts' => [['number', 'name', 'type'], ['role', 'currency']],
        'terms' => [['code', 'text', 'use', 'runs_from', 'net'], ['windows', 'discounts', 'instalments', 'grace_days']],
        'tax-codes' => [['code', 'text', 'rate', 'account', 'use'], ['inclusive', 'recoverable_percent']],
        'rates' => [['date', 'from', 'to', 'rate'], []],
    ];

    public function __construct(private EntityManagerInterface $entities, private Chart $chart, private Lookup $lookup)
    {
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

    public function take(Actor $actor, string $kind, array $rows, bool $approved): void
    {
        $row = $rows[0];
        match ($kind) {
            'accounts' => $this->account($actor, $row),
            'terms' => $this->term($actor, $row),
            'tax-codes' => $this->taxCode($actor, $row),
            default => $this->rate($actor, $row),
        };
        $this->entities->flush();
        $this->chart->reset();
        $this->lookup->reset();
    }

    /** @param array<string, string> $row */
    private function account(Actor $actor, array $row): void
    {
        $problems = [];
        if (1 !== preg_match('/\A[A-Za-z0-9.-]{1,20}\z/', $row['number'])) {
            $problems[] = new Problem('number', 'An account number has up to 20 letters, digits, points or dashes.');
        } elseif (null !== $this->entities->getRepository(Account::class)->findOneBy(['companyId' => $actor->companyId, 'number' => $row['number']])) {
            $problems[] = new Problem('number', \sprintf('There is an account %s already.', $row['number']));
        }
        if ('' === $row['name'] || mb_strlen($row['name']) > 120) {
            $problems[] = new Problem('name', 'Give the account a name of up to 120 characters.');
        }
        if (!\in_array($row['type'], ['asset', 'liability', 'equity', 'income', 'expense'], true)) {
            $problems[] = new Problem('type', 'The type is asset, liability, equity, income or expense.');
        }
        $role = '' === $row['role'] ? null : AccountRole::tryFrom($row['role']);
        if ('' !== $row['role'] && null === $role) {
            $problems[] = new Problem('role', \sprintf('“%s” is not a role; known are %s.', $row['role'], implode(', ', array_column(AccountRole::cases(), 'value'))));
        }
        if (null !== $role && !$role->mayRepeat() && null !== $taken = $this->entities->getRepository(Account::class)->findOneBy(['companyId' => $actor->companyId, 'role' => $role])) {
            $problems[] = new Problem('role', \sprintf('Account %s has the role %s already; a company has one.', $taken->number, $role->value));
        }
        if ('' !== $row['currency'] && 1 !== preg_match('/\A[A-Z]{3}\z/', $row['currency'])) {
            $problems[] = new Problem('currency', 'A currency is three capital letters such as USD.');
        }
        self::refuse($problems);
        $this->entities->persist(new Account($actor->companyId, $row['number'], $row['name'], $row['type'], $role, '' === $row['currency'] ? null : $row['currency']));
    }

    /** @param array<string, string> $row */
    private function term(Actor $actor, array $row): void
    {
        $problems = $this->coded(PaymentTermRecord::class, $actor, $row);
        if (!\in_array($row['use'], ['vendors', 'customers', 'both'], true)) {
            $problems[] = new Problem('use', 'The use is vendors, customers or both.');
        }
        try {
            $spec = PaymentTerm::fromSpec($row)->toSpec();
        } catch (Refused $e) {
            self::refuse([...$problems, ...$e->problems]);

            return;
        }
        self::refuse($problems);
        $this->entities->persist(new PaymentTermRecord($actor->companyId, $row['code'], $row['text'], $row['use'], $spec));
    }

    /** @param array<string, string> $row */
    private function taxCode(Actor $actor, array $row): void
    {
        $problems = $this->coded(TaxCodeRecord::class, $actor, $row);
        foreach (['rate' => $row['rate'], 'recoverable_percent' => '' === $row['recoverable_percent'] ? '100' : $row['recoverable_percent']] as $field => $value) {
            if (1 !== preg_match('/\A\d{1,3}(\.\d{1,6})?\z/', $value) || BigDecimal::of($value)->isGreaterThan(100)) {
                $problems[] = new Problem($field, 'Give a percent from 0 to 100, such as 7.5.');
            }
        }
        if (!\in_array($row['use'], ['purchase', 'sale'], true)) {
            $problems[] = new Problem('use', 'The use is purchase or sale.');
        }
        $account = null;
        try {
            $account = $this->chart->postable($actor->companyId, $row['account'], 'account');
        } catch (Refused $e) {
            array_push($problems, ...$e->problems);
        }
        self::refuse($problems);
        $this->entities->persist(new TaxCodeRecord($actor->companyId, $row['code'], $row['text'], $row['rate'], (int) $account, $row['use'], \in_array($row['inclusive'], ['yes', '1', 'true'], true), '' === $row['recoverable_percent'] ? '100' : $row['recoverable_percent']));
    }

    /** @param array<string, string> $row */
    private function rate(Actor $actor, array $row): void
    {
        $day = Day::of($row['date']);
        $rate = (string) InvoiceReader::rate($row['rate']);
        Currency::of($row['from']);
        Currency::of($row['to']);
        $known = $this->entities->getRepository(ExchangeRate::class)->findOneBy(['companyId' => $actor->companyId, 'validOn' => $day, 'fromCurrency' => $row['from'], 'toCurrency' => $row['to']]);
        if (null !== $known) {
            $known->rate = $rate;

            return;
        }
        $this->entities->persist(new ExchangeRate($actor->companyId, $day, $row['from'], $row['to'], $rate));
    }

    /**
     * @param class-string          $class
     * @param array<string, string> $row
     *
     * @return list<Problem>
     */
    private function coded(string $class, Actor $actor, array $row): array
    {
        $problems = [];
        if (1 !== preg_match('/\A[A-Za-z0-9._-]{1,20}\z/', $row['code'])) {
            $problems[] = new Problem('code', 'A code has up to 20 letters, digits, points or dashes.');
        } elseif (null !== $this->entities->getRepository($class)->findOneBy(['companyId' => $actor->companyId, 'code' => $row['code']])) {
            $problems[] = new Problem('code', \sprintf('The code %s is taken already.', $row['code']));
        }
        if ('' === $row['text'] || mb_strlen($row['text']) > 160) {
            $problems[] = new Problem('text', 'Give a text of up to 160 characters.');
        }

        return $problems;
    }

    /** @param list<Problem> $problems */
    private static function refuse(array $problems): void
    {
        if ([] !== $problems) {
            throw Refused::all($problems);
        }
    }
}
