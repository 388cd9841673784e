<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;

/** The tax of one code on a posted document. */
#[ORM\Entity]
#[ORM\Table(name: 'document_tax')]
class DocumentTax
{
    use Stored;

    public function __construct(
        #[ORM\ManyToOne, ORM\JoinColumn(nullable: false)] public readonly Document $document,
        #[ORM\Column] public readonly int $taxCodeId,
        #[ORM\Column(type: 'bigint')] public readonly int $net,
        #[ORM\Column(type: 'bigint')] public readonly int $tax,
        #[ORM\Column(type: 'bigint')] public readonly int $recoverable,
    ) {
    }
}
