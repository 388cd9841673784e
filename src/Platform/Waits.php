<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Symfony\Component\DependencyInjection\Attribute\AutoconfigureTag;

/** An area's work that waits for somebody: its lines on the page Today. */
#[AutoconfigureTag]
interface Waits
{
    /** @return iterable<WaitingLine> those that this person may see; in few queries, however much waits */
    public function lines(Desk $desk): iterable;
}
