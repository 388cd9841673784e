<?php

declare(strict_types=1);

(static function (): void {
    // of suites that run side by side each has a database, caches and logs of its own, made by tests/run
    $token = getenv('TEST_TOKEN');
    $base = getenv('NELBIX_TEST_BASE');
    if (false === $token || false === $base) {
        return;
    }
    $data = $base.'/app-'.$token;
    $own = [
        'NELBIX_DATA' => $data,
        'NELBIX_CACHE' => $data.'/cache-test',
        'NELBIX_LOG' => $data.'/log',
        'APP_ENV' => 'test',
    ];
    foreach ($own as $name => $value) {
        putenv($name.'='.$value);
        $_SERVER[$name] = $_ENV[$name] = $value;
    }
})();
require dirname(__DIR__).'/config/bootstrap.php';
// a class with one change in it, tried by tests/mutate
if (false !== ($mutant = getenv('NELBIX_MUTANT'))) {
    require $mutant;
}
