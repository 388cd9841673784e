<?php

declare(strict_types=1);

namespace Nelbix\App\Bank;

/** A bank account as it is read. */
final readonly class BankRow
{
    /**
     * @param int $accountId its account in the chart
     * @param string $companyNumber what the bank knows us by
     * @param bool $balanced the bank wants the debit of this account in an ACH file
     */
    public function __construct(
        public int $id,
        public string $code,
        public string $name,
        public string $currency,
        public int $accountId,
        public string $iban,
        public string $bic,
        public string $routingNumber,
        public string $accountNumber,
        public string $companyNumber,
        public bool $balanced,
    ) {
    }

    /** @param array<string, mixed> $r */
    public static function of(array $r): self
    {
        return new self(
            (int) $r['id'],
            (string) $r['code'],
            (string) $r['name'],
            (string) $r['currency'],
            (int) $r['account_id'],
            (string) $r['iban'],
            (string) $r['bic'],
            (string) $r['routing_number'],
            (string) $r['account_number'],
            (string) $r['company_number'],
            (bool) $r['balanced'],
        );
    }
}
