<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Symfony\Component\EventDispatcher\Attribute\AsEventListener;
use Symfony\Component\Security\Core\Exception\TooManyLoginAttemptsAuthenticationException;
use Symfony\Component\Security\Http\Authenticator\Passport\Badge\UserBadge;
use Symfony\Component\Security\Http\Event\LoginFailureEvent;
use Symfony\Component\Security\Http\Event\LoginSuccessEvent;
use Symfony\Component\Security\Http\Event\LogoutEvent;

/** Begins and ends presences, and writes down every sign-in, good or refused. */
final readonly class SignInEvents
{
    public function __construct(private Presences $presences, private SignIns $signIns)
    {
    }

    #[AsEventListener]
    public function onSuccess(LoginSuccessEvent $event): void
    {
        $user = $event->getUser();
        if (!$user instanceof User) {
            return;
        }
        $request = $event->getRequest();
        $needsCode = null !== $user->secondFactor;
        $presence = $this->presences->begin($user->id(), $request, !$needsCode);
        $event->getAuthenticatedToken()->setAttribute('presence', $presence);
        $this->signIns->note($user, $needsCode ? 'password' : 'signed in', $request);
    }

    #[AsEventListener]
    public function onFailure(LoginFailureEvent $event): void
    {
        $badge = $event->getPassport()?->getBadge(UserBadge::class);
        $this->signIns->refused(
            $badge instanceof UserBadge ? $badge->getUserIdentifier() : '',
            $event->getException() instanceof TooManyLoginAttemptsAuthenticationException
                ? 'too many tries'
                : 'refused',
            $event->getRequest(),
        );
    }

    #[AsEventListener]
    public function onLogout(LogoutEvent $event): void
    {
        $token = $event->getToken();
        if (null !== $token && $token->hasAttribute('presence')) {
            $this->presences->end((int) $token->getAttribute('presence'));
        }
    }
}
