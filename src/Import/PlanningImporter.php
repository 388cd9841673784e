<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Platform\Actor;

/** An importer that works a whole file out before it writes any of it. */
interface PlanningImporter extends CsvImporter
{
    public function begin(Actor $actor, string $kind): PlannedFile;
}
