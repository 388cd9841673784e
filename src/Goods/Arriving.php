<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Matching\Accrued;

/** A quantity that came with a delivery and that an invoice waited for. */
final readonly class Arriving
{
    /**
     * @param Accrued $accrued what it stands for in received-not-invoiced
     * @param Accrued $invoiced what it stands for in invoiced-not-received
     */
    public function __construct(
        public AwaitedLine $line,
        public AccruedLine $goods,
        public Accrued $accrued,
        public Accrued $invoiced,
    ) {
    }

    /** Neither before the goods came nor before they were invoiced. */
    public function notBefore(): Day
    {
        return Day::latest($this->goods->deliveredOn, $this->line->notBefore);
    }
}
