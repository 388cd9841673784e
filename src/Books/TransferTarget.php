<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** Where a transfer carries an item on: side, control account, party, and when it is due there; null on the day of the transfer. */
#[Exclude]
final readonly class TransferTarget
{
    public function __construct(public Side $side, public int $account, public int $party, public ?Day $due = null)
    {
    }
}
