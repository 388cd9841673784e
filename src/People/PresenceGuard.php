<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Symfony\Component\EventDispatcher\Attribute\AsEventListener;
use Symfony\Component\HttpFoundation\RedirectResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\HttpFoundation\Session\FlashBagAwareSessionInterface;
use Symfony\Component\HttpKernel\Event\RequestEvent;
use Symfony\Component\Routing\Generator\UrlGeneratorInterface;
use Symfony\Component\Security\Core\Authentication\Token\Storage\TokenStorageInterface;

/**
 * Every request of somebody who is signed in asks whether they still are: a presence that was ended, elsewhere or by retiring,
 * by a new password or by a lost role, opens nothing; one that lacks its second factor opens the page that asks for it.
 */
final readonly class PresenceGuard
{
    /** What somebody half way in may ask for. */
    private const HALF_WAY = ['second_factor', 'sign_out'];

    public function __construct(
        private TokenStorageInterface $tokens,
        private Presences $presences,
        private Substitutes $substitutes,
        private UrlGeneratorInterface $urls,
    ) {
    }

    /** After the firewall, before everything else. */
    #[AsEventListener(priority: 7)]
    public function onRequest(RequestEvent $event): void
    {
        $token = $event->isMainRequest() ? $this->tokens->getToken() : null;
        $user = $token?->getUser();
        if (null === $token || !($user instanceof User)) {
            return;
        }
        $id = $token->hasAttribute('presence') ? (int) $token->getAttribute('presence') : 0;
        $request = $event->getRequest();
        $presence = $this->presences->at($id, $user->id());
        $state = $presence->state;
        if (PresenceState::There === $state) {
            $user->standsIn = $presence->deputy ? $this->substitutes->rolesOf($user->id()) : [];

            return;
        }
        if (PresenceState::HalfWay === $state) {
            if (!\in_array($request->attributes->get('_route'), self::HALF_WAY, true)) {
                $event->setResponse($this->to('second_factor', $request));
            }

            return;
        }
        $this->tokens->setToken(null);
        $session = $request->getSession();
        $session->invalidate();
        if ($session instanceof FlashBagAwareSessionInterface) {
            $session
                ->getFlashBag()
                ->add(
                    'refused',
                    PresenceState::LeftAlone === $state
                        ? 'Nobody was there for a while, so you were signed out. Sign in again.'
                        : 'You were signed out. Sign in again.',
                );
        }
        $event->setResponse(
            EntryPoint::isAskedByAPage($request)
                ? new Response('', Response::HTTP_UNAUTHORIZED)
                : $this->to('sign_in', $request),
        );
    }

    private function to(string $route, Request $request): Response
    {
        // what a page asks for by itself is answered so that the page stays, with what was typed in it
        return 'true' === $request->headers->get('HX-Request') || 'still_here' === $request->attributes->get('_route')
            ? new Response('', Response::HTTP_UNAUTHORIZED)
            : new RedirectResponse($this->urls->generate($route), Response::HTTP_SEE_OTHER);
    }
}
