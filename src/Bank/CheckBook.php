<?php

declare(strict_types=1);

namespace Nelbix\App\Bank;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** A run of check numbers of a bank account, each used once. */
#[ORM\Entity]
#[ORM\Table(name: 'check_book')]
class CheckBook
{
    use Stored;

    /** Millimetres by which the print is moved on its stock: right and down. */
    #[ORM\Column(type: 'smallint', options: ['default' => 0])]
    public int $offsetX = 0;

    #[ORM\Column(type: 'smallint', options: ['default' => 0])]
    public int $offsetY = 0;

    public function __construct(
        #[ORM\Column] public readonly int $bankAccountId,
        #[ORM\Column(length: 60)] public string $name,
        #[ORM\Column(type: 'bigint')] public readonly int $firstNumber,
        #[ORM\Column(type: 'bigint')] public int $nextNumber,
    ) {
    }
}
