<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccount;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * What money did to the bank account: the second of its two amounts, in the account's own currency. What was typed holds; else it is
 * worked out from the table's rates. Source: rules.md, Settlements, Money has two amounts.
 */
final readonly class AtTheBank
{
    public function __construct(
        private EntityManagerInterface $entities,
        private Rates $rates,
        private Settings $settings,
        private Chart $chart,
    ) {
    }

    /** @throws Refused when there is no such account, or it is retired */
    public function account(Actor $actor, MoneyInput $input): BankAccount
    {
        $bank = $this->entities->find(BankAccount::class, $input->bankAccountId);
        if (null === $bank || $bank->companyId !== $actor->companyId || $bank->retired) {
            throw Refused::because(
                'bank',
                'There is no such bank account in this company; choose one from the list.',
                ProblemKind::Unknown,
            );
        }

        return $bank;
    }

    /**
     * Where a check or cash stands until a deposit slip takes it to the bank; null when it goes there at once.
     *
     * @throws Refused when the company keeps money on hand and has no account for it
     */
    public function onHand(Actor $actor, MoneyInput $input): ?int
    {
        $kept =
            Side::Receivables === $input->side
            && $input->sign() < 0
            && Method::tryFrom($input->method)?->isOnHand()
            && 'yes' === $this->settings->of($actor->companyId)->values['deposit_slips'];

        return $kept ? $this->chart->role($actor->companyId, AccountRole::MoneyOnHand) : null;
    }

    /**
     * @param int $base what the money settles, base minor units
     *
     * @return array{amount: int, base: int} what moved, in minor units of the account's currency and in base
     *
     * @throws Refused when what is typed cannot be, or there is no rate for the account's currency
     */
    public function moved(Actor $actor, MoneyInput $input, BankAccount $bank, int $base): array
    {
        $typed = $input->bankAmount;
        if (null !== $typed && $typed <= 0) {
            throw Refused::because(
                'bank_amount',
                'What reached the bank is above zero; leave it blank for the table’s rate.',
            );
        }
        if ($bank->currency === $input->currency) {
            if (null !== $typed && $typed !== $input->amount) {
                throw Refused::because(
                    'bank_amount',
                    \sprintf(
                        '%s is kept in %s too, so the same %s moved there; what the bank kept is its charge.',
                        $bank->name,
                        $bank->currency,
                        Money::of($input->amount, $input->currency)->decimal(),
                    ),
                );
            }

            return ['amount' => $input->amount, 'base' => $base];
        }
        if ($bank->currency === $actor->baseCurrency) {
            return ['amount' => $typed ?? $base, 'base' => $typed ?? $base];
        }
        $rate = $this->rates->on($actor->companyId, $bank->currency, $actor->baseCurrency, $input->date, 'bank');
        $amount = $typed ?? self::into($base, $actor->baseCurrency, $bank->currency, $rate);

        return [
            'amount' => $amount,
            'base' => InvoiceEntry::base($amount, $bank->currency, $actor->baseCurrency, $rate),
        ];
    }

    /** So much base money in another currency: minor units, rounded half away from zero. */
    private static function into(int $base, string $from, string $to, BigDecimal $rate): int
    {
        return BigDecimal::of(Money::of($base, $from)->decimal())
            ->dividedBy($rate, Currency::of($to)->digits, RoundingMode::HALF_UP)
            ->withPointMovedRight(Currency::of($to)->digits)
            ->toInt();
    }
}
