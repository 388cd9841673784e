<?php

declare(strict_types=1);

namespace Nelbix\Demo;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccount;
use Nelbix\App\Ledger\AnalysisCode;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Parties\SaveParty;
use Nelbix\App\Parties\SaveReminderLadder;
use Nelbix\App\People\Membership;
use Nelbix\App\People\Role;
use Nelbix\App\People\User;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Setup\NewCompany\CreateCompany;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Mod97;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\PasswordHasher\Hasher\UserPasswordHasherInterface;

/** Sets the demo up: companies, people, vendors and customers. What happens in them is played by Story. */
final readonly class Tamarack
{
    public const BOOKS_DAY = '2026-06-15';
    public const PASSWORD = 'tamarack';

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private CreateCompany $createCompany,
        private SaveParty $saveParty,
        private SaveReminderLadder $saveLadder,
        private UserPasswordHasherInterface $hasher,
        private Story $story,
        private Chart $chart,
    ) {
    }

    /** @param callable(string): void $say */
    public function load(callable $say): void
    {
        foreach (
            [
                ['BOAT', 'Tamarack Boatworks', 'USD', '4 Slipway Lane, Alder Point, Tamarack Sound'],
                ['CHAND', 'Tamarack Chandlery', 'USD', '9 Slipway Lane, Alder Point, Tamarack Sound'],
                ['NORDIC', 'Tamarack Nordic', 'EUR', 'Havnegade 2, Strandby'],
            ] as [$code, $name, $currency, $address]
        ) {
            $this->createCompany->create($code, $name, $currency, Day::of(self::BOOKS_DAY));
            $this->transaction->run(function () use ($code, $address): void {
                $company =
                    $this->entities->getRepository(Company::class)->findOneBy(['code' => $code]) ??
                    throw new \LogicException();
                $company->booksDay = Day::of(self::BOOKS_DAY);
                [$company->address, $company->city, $company->country] = [
                    ...explode(', ', $address, 2),
                    'NORDIC' === $code ? 'DK' : 'US',
                ];
                $company->taxNumber = self::taxNumber($code, $company->country);
                $bank =
                    $this->entities->getRepository(BankAccount::class)->findOneBy(['companyId' => $company->id]) ??
                    throw new \LogicException();
                $bank->name = 'NORDIC' === $code ? 'Strandby Sparekasse' : 'Harbor Trust';
                $bank->iban = 'NORDIC' === $code ? self::iban(123456) : '';
                if ('NORDIC' !== $code) {
                    [$bank->routingNumber, $bank->accountNumber, $bank->companyNumber] = [
                        self::routing(12_345_678),
                        '4400'.\strlen($code).'071',
                        '9'.str_pad((string) \ord($code[0]), 9, '0'),
                    ];
                }
                foreach (
                    [
                        ['cost_center', 'YARD', 'Yard'],
                        ['cost_center', 'JOIN', 'Joinery'],
                        ['cost_center', 'SHOP', 'Shop'],
                        ['cost_center', 'OFFICE', 'Office'],
                        ['department', 'REPAIR', 'Repair'],
                        ['department', 'NEW', 'New boats'],
                        ['project', 'PETREL', 'Refit of Petrel'],
                        ['project', 'ADA', 'Building Ada'],
                    ] as [$kind, $c, $n]
                ) {
                    $this->entities->persist(new AnalysisCode($company->id(), $kind, $c, $n));
                }
            });
        }
        $this->people();
        $say('Companies and people are set up');
        foreach (
            ['BOAT' => [60, 90, 1], 'CHAND' => [14, 24, 2], 'NORDIC' => [8, 10, 3]] as $code => [$vendors, $customers, $seed]
        ) {
            $clerk = $this->actor($code, 'ilves');
            $this->parties($clerk, $code, $vendors, $customers, $seed);
            $this->group($clerk, $code, $vendors, $customers);
            $this->chart->reset();
            $count = $this->story->play(
                $code,
                $clerk,
                $this->actor($code, 'okafor'),
                $this->actor($code, 'soto'),
                $this->actor($code, 'brandt'),
                $this->actor($code, 'reyes'),
                $this->actor($code, 'haven'),
                $seed,
                Day::of(self::BOOKS_DAY),
                $say,
            );
            $say(\sprintf('%s: %d documents', $this->company($code)->name, $count));
        }
    }

    private function people(): void
    {
        $this->transaction->run(function (): void {
            $hash = null;
            foreach (Names::USERS as [$username, $name, $role]) {
                $user = new User($username, $name);
                $user->passwordHash = $hash ??= $this->hasher->hashPassword($user, self::PASSWORD);
                $this->entities->persist($user);
                foreach ($this->entities->getRepository(Company::class)->findAll() as $company) {
                    $this->entities->persist(new Membership($user, $company, Role::from($role)));
                }
            }
        });
    }

    private function parties(Actor $actor, string $code, int $vendors, int $customers, int $seed): void
    {
        mt_srand(100 + $seed);
        $list = Names::VENDORS;
        if ('BOAT' !== $code) {
            $list = [...\array_slice($list, 50, 3), ...\array_slice($list, 0, 49)];
        }
        $this->transaction->run(function () use ($actor, $list, $vendors, $customers, $code): void {
            foreach (\array_slice($list, 0, $vendors) as $k => [$name, $terms, $account, $late, $method]) {
                $foreign = \in_array($name, ['Holm & Vik Beslag', 'Nordhavn Tau', 'Strandby Lak'], true);
                $this->saveParty->save(
                    $actor,
                    Side::Payables,
                    [
                        'code' => \sprintf('V-%04d', $k + 1),
                        'name' => $name,
                        'terms' => $terms,
                        'default_account' => $account,
                        'if_late' => $late,
                        'group' => ['5000' => 'materials', '5100' => 'yard services', '5200' => 'freight'][$account] ??
                            'running costs',
                        'method' => $foreign ? 'transfer' : $method,
                        'currency' => $foreign ? 'EUR' : '',
                        'street' => mt_rand(1, 90).
                            ' '.
                            ['Quay Street', 'Mill Road', 'Slipway Lane', 'Fore Street', 'Rope Walk'][mt_rand(0, 4)],
                        'city' => $foreign
                            ? 'Strandby'
                            : ['Alder Point', 'Barrow Quay', 'Cinder Bay', 'Ennisfield'][mt_rand(0, 3)],
                        'country' => $foreign ? 'DK' : 'US',
                        'email' => 'accounts@'.preg_replace('/[^a-z]/', '', strtolower(substr($name, 0, 24))).'.example',
                        'tax_number' => \sprintf('TN-%06d', mt_rand(100000, 999999)),
                        'routing_number' => 'transfer' === $method ? self::routing(mt_rand(10_000_000, 32_999_999)) : '',
                        'iban' => $foreign ? self::iban(mt_rand(1, 999_999_999)) : '',
                        'account_number' => 'transfer' === $method ? (string) mt_rand(10_000_000, 99_999_999) : '',
                    ],
                    null,
                    true,
                );
            }
            $this->saveLadder->save($actor, [
                'code' => 'USUAL',
                'name' => 'the usual ladder',
                'rungs' => '7 21 45',
                'fees' => '0 0 '.('NORDIC' === $code ? '20' : '25'),
            ]);
            $n = 0;
            foreach (Names::CUSTOMER_SECOND as $b => $second) {
                foreach (Names::CUSTOMER_FIRST as $a => $first) {
                    if (0 !== ($a + $b) % 2 || ++$n > $customers) {
                        continue;
                    }
                    $name = $n === $customers && 'BOAT' === $code ? 'Osprey Engine Works' : $first.' '.$second;
                    $this->saveParty->save(
                        $actor,
                        Side::Receivables,
                        [
                            'code' => \sprintf('C-%04d', $n),
                            'name' => $name,
                            'terms' => ['N30', 'N30', 'N10', '1-14-N45', '2-10-N30'][$n % 5],
                            'default_account' => ['4000', '4100', '4200'][$n % 3],
                            'credit_limit' => (string) (mt_rand(5, 40) * 1000),
                            'street' => mt_rand(1, 90).' Harbor Road',
                            'city' => ['Alder Point', 'Tern Island', 'Barrow Quay'][$n % 3],
                            'country' => 'US',
                            'email' => 'office@'.preg_replace('/[^a-z]/', '', strtolower($name)).'.example',
                            'currency' => 'NORDIC' !== $code && 0 === $n % 23 ? 'EUR' : '',
                            'reminder_ladder' => 'USUAL',
                            'statement' => ['none', 'open', 'moves', 'open'][$n % 4],
                            'charge_rate' => 6 === $n % 9 ? '18' : '',
                            'charge_grace_days' => 6 === $n % 9 ? '5' : '',
                            'charge_smallest' => 6 === $n % 9 ? '5' : '',
                            'salesperson' => 0 === $n % 3 ? ['Ines Calder', 'Tom Vey'][$n % 2] : '',
                            'commission_percent' => 0 === $n % 3 ? '2.5' : '',
                        ],
                        null,
                        true,
                    );
                }
            }
        });
        if ('BOAT' === $code) {
            $db = $this->entities->getConnection();
            $this->saveParty->link(
                $actor,
                (int) $db->fetchOne(
                    "SELECT id FROM party WHERE company_id = ? AND side = 'payables' AND name = 'Osprey Engine Works'",
                    [$actor->companyId],
                ),
                (int) $db->fetchOne(
                    "SELECT id FROM party WHERE company_id = ? AND side = 'receivables' AND name = 'Osprey Engine Works'",
                    [$actor->companyId],
                ),
            );
        }
        $this->entities->clear();
    }

    /** The other companies of the group, as far as they trade with this one. */
    private function group(Actor $actor, string $code, int $vendors, int $customers): void
    {
        $this->transaction->run(function () use ($actor, $code, $vendors, $customers): void {
            foreach (Group::partners($code) as [$side, $other, $currency]) {
                $vendor = Side::Payables === $side;
                $this->saveParty->save(
                    $actor,
                    $side,
                    [
                        'code' => $vendor ? \sprintf('V-%04d', $vendors + 1) : \sprintf('C-%04d', $customers + 1),
                        'name' => Group::COMPANIES[$other],
                        'tax_number' => self::taxNumber($other, 'NORDIC' === $other ? 'DK' : 'US'),
                        'terms' => 'N30',
                        'default_account' => $vendor ? '5000' : '4000',
                        'method' => $vendor ? 'transfer' : '',
                        'currency' => $currency === $actor->baseCurrency ? '' : $currency,
                        'city' => 'Alder Point',
                        'country' => 'NORDIC' === $other ? 'DK' : 'US',
                    ],
                    null,
                    true,
                );
            }
        });
        $this->entities->clear();
    }

    private static function taxNumber(string $code, string $country): string
    {
        return \sprintf('%s%08d', $country, crc32($code) % 100_000_000);
    }

    /** An invented number with the right check digit. */
    private static function routing(int $eight): string
    {
        $sum = 0;
        foreach (str_split((string) $eight) as $k => $digit) {
            $sum += (int) $digit * [3, 7, 1][$k % 3];
        }

        return $eight.(10 - ($sum % 10)) % 10;
    }

    public static function iban(int $account): string
    {
        $number = \sprintf('7004%010d', $account);

        return 'DK'.Mod97::digits($number, 'DK').$number;
    }

    private function company(string $code): Company
    {
        return $this->entities->getRepository(Company::class)->findOneBy(['code' => $code]) ??
            throw new \LogicException('The company is missing.');
    }

    private function actor(string $company, string $username): Actor
    {
        return Actor::of(
            $this->company($company),
            $this->entities->getRepository(User::class)->findOneBy(['username' => $username]) ??
                throw new \LogicException('The user is missing.'),
        );
    }
}
