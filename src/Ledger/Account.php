<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Ledger\AccountRole;

/** An account of a company's chart. Retired accounts stay on old documents and leave every picker. */
#[ORM\Entity]
#[ORM\Table(name: 'account')]
class Account
{
    use Stored;

    #[ORM\Column(options: ['default' => false])]
    public bool $retired = false;

    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 20)] public readonly string $number,
        #[ORM\Column(length: 120)] public string $name,
        #[ORM\Column(length: 10)] public string $type,
        #[ORM\Column(length: 30, nullable: true, enumType: AccountRole::class)] public ?AccountRole $role = null,
        #[ORM\Column(length: 3, nullable: true, options: ['fixed' => true])] public ?string $currency = null,
    ) {
    }
}
