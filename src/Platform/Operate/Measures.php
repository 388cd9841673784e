<?php

declare(strict_types=1);

namespace Nelbix\App\Platform\Operate;

use Symfony\Component\DependencyInjection\Attribute\AutoconfigureTag;

/** What an area counts for an operator: no secrets, no names, in few queries that stay quick however much data there is. */
#[AutoconfigureTag]
interface Measures
{
    /** @return iterable<Measured> */
    public function measured(): iterable;
}
