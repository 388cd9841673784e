<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Ledger\Side;

/** What is posted of one long file: part by part, and held until all of it is there. */
#[ORM\Entity]
#[ORM\Table(name: 'posting_lot')]
class PostingLot
{
    use Stored;

    #[ORM\Column(length: 12, enumType: LotState::class)]
    public LotState $state = LotState::UnderWay;

    /** How many records of the file are posted. */
    #[ORM\Column(options: ['default' => 0])]
    public int $posted = 0;

    /** Why it is taken back, in the words of whoever does. */
    #[ORM\Column(length: 255, options: ['default' => ''])]
    public string $reason = '';

    #[ORM\Column(nullable: true)]
    public ?\DateTimeImmutable $endedAt = null;

    /**
     * @param LotOf $holds what its records are
     * @param Side|null $side null for records of both sides, or of none
     * @param string $kind of file
     * @param bool $approved whoever runs the machine took it in: what of it would wait for an approval is posted
     * @param int $takenId what says that the file was taken over
     * @param int $records how many the file holds
     */
    public function __construct(
        #[ORM\Column] public readonly int $companyId,
        #[ORM\Column(length: 12, enumType: LotOf::class, options: ['default' => 'documents']),]
        public readonly LotOf $holds,
        #[ORM\Column(length: 12, nullable: true, enumType: Side::class)] public readonly ?Side $side,
        #[ORM\Column(length: 30)] public readonly string $kind,
        #[ORM\Column(length: 200)] public readonly string $name,
        #[ORM\Column(options: ['default' => false])] public readonly bool $approved,
        #[ORM\Column] public readonly int $fileId,
        #[ORM\Column] public readonly int $takenId,
        #[ORM\Column] public readonly int $records,
        #[ORM\Column] public readonly int $createdById,
        #[ORM\Column] public \DateTimeImmutable $createdAt,
    ) {
    }

    public function reservation(): Reservation
    {
        return Reservation::ofLot($this->id());
    }
}
