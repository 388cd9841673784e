<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

use Symfony\Component\DependencyInjection\Attribute\AutoconfigureTag;

/** Something small that workers do again and again, beside the jobs. */
#[AutoconfigureTag]
interface Chore
{
    /** @return bool whether there may be more to do at once */
    public function do(): bool;
}
