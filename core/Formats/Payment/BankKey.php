<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Payment;

/** An account at a bank: by IBAN (and BIC), or by routing number and account number. */
final readonly class BankKey
{
    public function __construct(
        public string $iban = '',
        public string $bic = '',
        public string $routing = '',
        public string $account = '',
    ) {
    }

    public function hasIban(): bool
    {
        return '' !== $this->iban;
    }

    public function hasRouting(): bool
    {
        return '' !== $this->routing && '' !== $this->account;
    }
}
