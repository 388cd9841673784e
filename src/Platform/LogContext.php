<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Monolog\Attribute\AsMonologProcessor;
use Monolog\LogRecord;
use Symfony\Component\HttpFoundation\RequestStack;
use Symfony\Component\Security\Core\Authentication\Token\Storage\TokenStorageInterface;

/** Says in the log who was refused or met an error, from where, and on which page; never what was sent. */
#[AsMonologProcessor]
final readonly class LogContext
{
    public function __construct(private RequestStack $requests, private TokenStorageInterface $tokens)
    {
    }

    public function __invoke(LogRecord $record): LogRecord
    {
        $request = $this->requests->getMainRequest();
        if (null !== $request) {
            $record->extra['user'] = $this->tokens->getToken()?->getUserIdentifier() ?? '';
            $record->extra['address'] = (string) $request->getClientIp();
            $record->extra['page'] = $request->getMethod().' '.$request->getPathInfo();
        }

        return $record;
    }
}
