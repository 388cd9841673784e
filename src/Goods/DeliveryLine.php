<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\ORM\Mapping as ORM;
use Nelbix\App\Platform\Stored;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Matching\Accrued;

/** What came of one kind of goods, at the price that was agreed or that its paper shows. */
#[ORM\Entity]
#[ORM\Table(name: 'delivery_line')]
class DeliveryLine
{
    use Stored;

    /** What is neither invoiced nor sent back. */
    #[ORM\Column(type: 'decimal', precision: 15, scale: 4)]
    public string $openQuantity = '0';

    #[ORM\Column(type: 'bigint', options: ['default' => 0])]
    public int $openAmount = 0;

    #[ORM\Column(type: 'bigint', options: ['default' => 0])]
    public int $openBase = 0;

    /** Nothing takes of it before the last day on which something was given back to it. */
    #[ORM\Column(type: 'day', nullable: true)]
    public ?Day $lastUndoneOn = null;

    public function __construct(
        #[ORM\ManyToOne, ORM\JoinColumn(nullable: false)] public readonly Delivery $delivery,
        #[ORM\Column(type: 'smallint')] public readonly int $position,
        #[ORM\Column] public readonly int $accountId,
        #[ORM\Column(length: 255)] public readonly string $text,
        #[ORM\Column(type: 'decimal', precision: 15, scale: 4)] public string $quantity,
        #[ORM\Column(type: 'decimal', precision: 17, scale: 6)] public string $price,
        #[ORM\Column(type: 'bigint')] public readonly int $amount,
        #[ORM\Column(type: 'bigint')] public readonly int $amountBase,
        #[ORM\Column(nullable: true)] public readonly ?int $costCenterId,
        #[ORM\Column(nullable: true)] public readonly ?int $departmentId,
        #[ORM\Column(nullable: true)] public readonly ?int $projectId,
        #[ORM\Column(nullable: true)] public readonly ?int $orderLineId = null,
        /** A code of UN/ECE recommendation 20. */
        #[ORM\Column(length: 3, options: ['default' => ''])] public readonly string $unit = '',
    ) {
        [$this->openQuantity, $this->openAmount, $this->openBase] = [$quantity, $amount, $amountBase];
    }

    public function left(): Accrued
    {
        return new Accrued(BigDecimal::of($this->openQuantity), $this->openAmount, $this->openBase);
    }

    public function leave(Accrued $left): void
    {
        $this->openQuantity = (string) $left->quantity->toScale(4);
        $this->openAmount = $left->amount;
        $this->openBase = $left->base;
    }
}
