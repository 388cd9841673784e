<?php

declare(strict_types=1);

require dirname(__DIR__).'/config/bootstrap.php';
// a class with one change in it, tried by tests/mutate
if (false !== ($mutant = getenv('NELBIX_MUTANT'))) {
    require $mutant;
}
