<?php

declare(strict_types=1);

namespace Nelbix\Core\Proposal;

/** What a vendor does when paid late; ranks payments when cash is short. */
enum IfPaidLate: string
{
    case StopsWork = 'stops_work';
    case Costs = 'costs';
    case CanWait = 'can_wait';

    public function rank(): int
    {
        return match ($this) {
            self::StopsWork => 0,
            self::Costs => 1,
            self::CanWait => 2,
        };
    }

    public function words(): string
    {
        return match ($this) {
            self::StopsWork => 'stops our work',
            self::Costs => 'costs us',
            self::CanWait => 'can wait',
        };
    }
}
