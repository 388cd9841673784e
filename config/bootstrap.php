<?php

declare(strict_types=1);

use Symfony\Component\Dotenv\Dotenv;

/*
 * Everything that starts Nelbix comes through here: the web front, the console and the tests.
 * Settings come from the environment, or from the data folder that ./nelbix start keeps.
 */
require_once dirname(__DIR__).'/vendor/autoload.php';
// Debian's package; the registry lacks this one (see docs/architecture.md)
require_once 'Symfony/Component/RateLimiter/autoload.php';

(static function (): void {
    if (!isset($_SERVER['DATABASE_URL']) && !isset($_ENV['DATABASE_URL'])) {
        $data = $_SERVER['NELBIX_DATA'] ?? ($_ENV['NELBIX_DATA'] ?? dirname(__DIR__).'/var/data');
        if (is_file($data.'/nelbix.env')) {
            // the cache that ./nelbix start keeps fresh, so that a console called directly never runs on an old one
            $_SERVER['NELBIX_CACHE'] ??= $data.'/cache';
            $_SERVER['NELBIX_LOG'] ??= $data.'/log';
            (new Dotenv())->usePutenv(false)->load($data.'/nelbix.env');
        }
    }
    $_SERVER['APP_ENV'] ??= $_ENV['APP_ENV'] ?? 'prod';
    $_SERVER['APP_DEBUG'] ??= $_ENV['APP_DEBUG'] ?? ('dev' === $_SERVER['APP_ENV'] ? '1' : '0');
    $_ENV['APP_ENV'] = $_SERVER['APP_ENV'];
})();
