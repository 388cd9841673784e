<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Settlement\AdjustmentKind;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** What is to be claimed of an item: minor units, positive; or, with $writeOffAs, what somebody asks to let go. */
#[Exclude]
final readonly class ClaimRequest
{
    /**
     * @param string $person username of who looks after it; '' for nobody in particular
     * @param Day|null $followUpOn when it is looked at again
     * @param int|null $account where it goes, when another than the kind's own is named
     */
    public function __construct(
        public int $item,
        public int $amount,
        public ClaimKind $kind,
        public string $text,
        public string $person = '',
        public ?Day $followUpOn = null,
        public ?AdjustmentKind $writeOffAs = null,
        public ?int $account = null,
    ) {
    }
}
