<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Nelbix\Core\Ledger\Side;

/** What an action asks of the person: a permission, or seeing or entering on the side that the address names. */
#[\Attribute(\Attribute::TARGET_METHOD)]
final readonly class Needs
{
    /** @param 'see'|'enter'|Permission $what */
    public function __construct(private string|Permission $what)
    {
    }

    public function permission(?Side $side): Permission
    {
        if ($this->what instanceof Permission) {
            return $this->what;
        }

        return match (true) {
            null === $side => throw new \LogicException('An action that asks for a side has none in its address.'),
            'see' === $this->what => Permission::see($side),
            default => Permission::enter($side),
        };
    }
}
