<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Nelbix\Core\Ledger\Side;
use Symfony\Component\DependencyInjection\Attribute\AutoconfigureTag;

/** An area whose papers a payer may name, though nothing is open for them yet. */
#[AutoconfigureTag]
interface NamesPayer
{
    /** @return list<array{code: string, name: string}> parties with such a paper, whose number begins so */
    public function payersOf(int $companyId, Side $side, string $begins): array;
}
