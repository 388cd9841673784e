<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Doctrine\DBAL\Connection;
use Symfony\Component\HttpFoundation\Session\Storage\Handler\PdoSessionHandler;

/** Sessions live in the database, so that any application server can take any request. */
final class SessionStore
{
    public static function create(Connection $connection): PdoSessionHandler
    {
        $pdo = $connection->getNativeConnection();

        return new PdoSessionHandler(
            $pdo instanceof \PDO ? $pdo : throw new \LogicException('Sessions need the PDO driver.'),
            ['lock_mode' => PdoSessionHandler::LOCK_NONE],
        );
    }
}
