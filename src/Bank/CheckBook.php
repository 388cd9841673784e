<?php

declare(strict_types=1);

namespace Nelbix\App\Bank;

use Doctrine\ORM\Mapping as ORM;

/** A run of check numbers of a bank account, each used once. */
#[ORM\Entity]
#[ORM\Table(name: 'check_book')]
class CheckBook
{
    #[ORM\Id, ORM\GeneratedValue, ORM\Column]
    public ?int $id = null;

    public function __construct(
        #[ORM\Column]
        public readonly int $bankAccountId,
        #[ORM\Column(length: 60)]
        public string $name,
        #[ORM\Column(type: 'bigint')]
        public readonly int $firstNumber,
        #[ORM\Column(type: 'bigint')]
        public int $nextNumber,
    ) {
    }

    public function id(): int
    {
        return $this->id ?? throw new \LogicException('Not stored yet.');
    }
}
