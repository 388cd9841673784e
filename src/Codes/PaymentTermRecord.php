<?php

declare(strict_types=1);

namespace Nelbix\App\Codes;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Terms\PaymentTerm;

/** A payment term as it is kept; the core's PaymentTerm is read from its spec. */
#[ORM\Entity]
#[ORM\Table(name: 'payment_term')]
class PaymentTermRecord
{
    use Stored;

    #[ORM\Column(options: ['default' => false])]
    public bool $retired = false;

    /** @param array<string, string> $spec the text form of the core's PaymentTerm */
    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 20)] public readonly string $code,
        #[ORM\Column(length: 160)] public string $text,
        #[ORM\Column(length: 10)] public string $usedBy,
        #[ORM\Column(type: 'json')] public array $spec,
    ) {
    }

    public function term(): PaymentTerm
    {
        return PaymentTerm::fromSpec($this->spec);
    }
}
