<?php

declare(strict_types=1);

// Debian's rate limiter brings an autoloader that knows an older logger; ours is loaded before it
$log = dirname(__DIR__).'/vendor/psr/log/src/';
foreach (['LoggerInterface', 'LoggerTrait', 'AbstractLogger', 'NullLogger'] as $name) {
    require_once $log.$name.'.php';
}
require dirname(__DIR__).'/config/bootstrap.php';
