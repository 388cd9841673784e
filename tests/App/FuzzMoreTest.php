<?php

declare(strict_types=1);

namespace Nelbix\Tests\App;

/** No input is answered with an error page: the other half of the routes. */
final class FuzzMoreTest extends FuzzCase
{
    protected function half(): int
    {
        return 1;
    }
}
