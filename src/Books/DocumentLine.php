<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Ledger\LineKind;

/** A line of a posted document. Amount as entered; net without an inclusive tax. */
#[ORM\Entity]
#[ORM\Table(name: 'document_line')]
class DocumentLine
{
    use Stored;

    public function __construct(
        #[ORM\ManyToOne, ORM\JoinColumn(nullable: false)] public readonly Document $document,
        #[ORM\Column(type: 'smallint')] public readonly int $position,
        #[ORM\Column] public readonly int $accountId,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(type: 'bigint')] public readonly int $net,
        #[ORM\Column(nullable: true)] public readonly ?int $taxCodeId,
        #[ORM\Column(length: 255)] public readonly string $text,
        #[ORM\Column(nullable: true)] public readonly ?int $costCenterId,
        #[ORM\Column(nullable: true)] public readonly ?int $departmentId,
        #[ORM\Column(nullable: true)] public readonly ?int $projectId,
        #[ORM\Column(type: 'decimal', precision: 15, scale: 4, nullable: true)] public ?string $quantity = null,
        #[ORM\Column(type: 'decimal', precision: 17, scale: 6, nullable: true)] public ?string $price = null,
        #[ORM\Column(type: 'bigint', nullable: true)] public ?int $cost = null,
        #[ORM\Column(length: 10, enumType: LineKind::class, options: ['default' => 'line']),]
        public LineKind $kind = LineKind::Line,
        #[ORM\Column(type: 'bigint', nullable: true)] public ?int $allowance = null,
    ) {
    }
}
