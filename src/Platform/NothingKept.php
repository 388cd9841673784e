<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

/** Thrown on purpose to take back what was only tried; the connection is as good as before. */
final class NothingKept extends \RuntimeException
{
}
