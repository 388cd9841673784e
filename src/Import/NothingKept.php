<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

/** Rolls an import back after everything was tried. */
final class NothingKept extends \RuntimeException
{
}
