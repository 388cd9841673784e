<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

/** Keeps the numbers that records were given in the last statements before the commit. */
interface StoresNumbers
{
    /** @param non-empty-list<object> $records that have their numbers by now, in the order in which they were announced */
    public function storeNumbers(array $records): void;
}
