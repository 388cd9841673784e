<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Symfony\Component\DependencyInjection\Attribute\Autowire;

/** Whether stand-ins take the place of bank and printer. They belong to the demo; elsewhere files are handed over by hand. */
final class StandIns
{
    public function __construct(#[Autowire('%nelbix.stand_ins%')] public bool $here)
    {
    }
}
