<?php

declare(strict_types=1);

namespace Nelbix\App\Bank;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** A bank account of the company and its account in the chart. */
#[ORM\Entity]
#[ORM\Table(name: 'bank_account')]
class BankAccount
{
    use Stored;

    #[ORM\Column(options: ['default' => false])]
    public bool $retired = false;

    #[ORM\Column(length: 34, options: ['default' => ''])]
    public string $iban = '';

    #[ORM\Column(length: 15, options: ['default' => ''])]
    public string $bic = '';

    #[ORM\Column(length: 20, options: ['default' => ''])]
    public string $routingNumber = '';

    #[ORM\Column(length: 40, options: ['default' => ''])]
    public string $accountNumber = '';

    /** What the bank knows us by, in its ACH files. */
    #[ORM\Column(length: 20, options: ['default' => ''])]
    public string $companyNumber = '';

    /** The bank wants the debit of this account in an ACH file. */
    #[ORM\Column(options: ['default' => false])]
    public bool $balanced = false;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column] public readonly int $accountId,
        #[ORM\Column(length: 20)] public readonly string $code,
        #[ORM\Column(length: 120)] public string $name,
        #[ORM\Column(length: 3, options: ['fixed' => true])] public readonly string $currency,
    ) {
    }
}
