<?php

declare(strict_types=1);

namespace Nelbix\App\Bank;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\Account;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Formats\Iban;
use Nelbix\Core\Formats\RoutingNumber;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Adds or changes one of the company's own bank accounts, with its first check book. */
final readonly class SaveBankAccount
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private History $history,
    ) {
    }

    /**
     * @param array<mixed> $raw code, name, currency, account, iban, bic, routing_number, account_number, company_number, balanced,
     *                          first_check, retired
     *
     * @throws Refused with every problem
     */
    public function save(Actor $actor, array $raw, ?int $id = null): int
    {
        return $this->transaction->run(function () use ($actor, $raw, $id): int {
            $problems = new ProblemList();
            $text = (new Fields($raw))->text(...);
            $bank = null === $id ? null : $this->entities->find(BankAccount::class, $id);
            if (null !== $id && (null === $bank || $bank->companyId !== $actor->companyId)) {
                throw Refused::because('', 'There is no such bank account in this company.', ProblemKind::Unknown);
            }
            $problems->attempt(static fn () => RecordCheck::name($text('name'), 120));
            $iban =
                '' === $text('iban') ? '' : $problems->attempt(static fn (): string => Iban::read($text('iban'))) ?? '';
            if (mb_strlen($text('bic')) > 15) {
                $problems->add('bic', 'A BIC has 8 or 11 characters.');
            }
            $routing =
                '' === $text('routing_number')
                    ? ''
                    : $problems->attempt(static fn (): string => RoutingNumber::read($text('routing_number'))) ?? '';
            if (1 !== preg_match('/\A[A-Za-z0-9-]{0,17}\z/', $text('account_number'))) {
                $problems->add('account_number', 'An account number has up to 17 letters, digits or dashes.');
            }
            if (1 !== preg_match('/\A[A-Za-z0-9 ]{0,10}\z/', $text('company_number'))) {
                $problems->add('company_number', 'The number the bank knows us by has up to 10 letters or digits.');
            }
            $account = null;
            $currency = null;
            if (null === $bank) {
                $problems->attempt(
                    fn () => RecordCheck::code($this->entities, BankAccount::class, $actor, $text('code')),
                );
                $currency = $problems->attempt(
                    static fn (): string => Currency::of(
                        '' === $text('currency') ? $actor->baseCurrency : strtoupper($text('currency')),
                    )->code,
                );
                $account = $this->entities
                    ->getRepository(Account::class)
                    ->findOneBy(['companyId' => $actor->companyId, 'number' => $text('account')]);
                if (
                    null === $account
                    || AccountRole::Bank !== $account->role
                    || null !==
                        $this->entities->getRepository(BankAccount::class)->findOneBy(['accountId' => $account->id()])
                ) {
                    $problems->add(
                        'account',
                        \sprintf(
                            '“%s” is no account with the role bank that is still free; add one under Accounts.',
                            mb_strimwidth($text('account'), 0, 20, '…'),
                        ),
                    );
                }
                if ('' !== $text('first_check') && 1 !== preg_match('/\A[1-9]\d{0,11}\z/', $text('first_check'))) {
                    $problems->add('first_check', 'A check number is a whole number of up to 12 digits.');
                }
            }
            $problems->refuse();
            $before = null === $bank ? [] : self::values($bank);
            $new = null === $bank;
            $bank ??= new BankAccount(
                $actor->companyId,
                (int) $account?->id(),
                $text('code'),
                $text('name'),
                (string) $currency,
            );
            $bank->name = $text('name');
            $bank->iban = $iban;
            $bank->bic = strtoupper($text('bic'));
            foreach (
                [
                    'routing_number' => ['routingNumber', $routing],
                    'account_number' => ['accountNumber', $text('account_number')],
                    'company_number' => ['companyNumber', $text('company_number')],
                    'balanced' => ['balanced', RecordCheck::yes($text('balanced'))],
                ] as $key => [$property, $value]
            ) {
                if (\array_key_exists($key, $raw)) {
                    $bank->{$property} = $value;
                }
            }
            $bank->retired = RecordCheck::yes($text('retired'));
            $this->entities->persist($bank);
            $this->entities->flush();
            if ($new && '' !== $text('first_check')) {
                $this->entities->persist(
                    new CheckBook($bank->id(), $bank->name, (int) $text('first_check'), (int) $text('first_check')),
                );
            }
            $this->history->change($actor, 'bank-accounts', $bank->id(), $before, self::values($bank));

            return $bank->id();
        });
    }

    /** @return array<string, string> */
    private static function values(BankAccount $b): array
    {
        return [
            'name' => $b->name,
            'iban' => $b->iban,
            'bic' => $b->bic,
            'routing_number' => $b->routingNumber,
            'account_number' => $b->accountNumber,
            'company_number' => $b->companyNumber,
            'balanced' => $b->balanced ? 'yes' : 'no',
            'retired' => $b->retired ? 'yes' : 'no',
        ];
    }
}
