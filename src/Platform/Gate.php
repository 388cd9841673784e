<?php

declare(strict_types=1);

namespace Nelbix\App\Platform;

use Nelbix\Core\Ledger\Side;
use Symfony\Bundle\FrameworkBundle\Controller\RedirectController;
use Symfony\Bundle\SecurityBundle\Security;
use Symfony\Component\EventDispatcher\Attribute\AsEventListener;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpKernel\Controller\ValueResolverInterface;
use Symfony\Component\HttpKernel\ControllerMetadata\ArgumentMetadata;
use Symfony\Component\HttpKernel\Event\ControllerEvent;
use Symfony\Component\HttpKernel\Exception\AccessDeniedHttpException;
use Symfony\Component\HttpKernel\Exception\NotFoundHttpException;
use Symfony\Component\Security\Core\Exception\AccessDeniedException;
use Symfony\Component\Security\Csrf\CsrfToken;
use Symfony\Component\Security\Csrf\CsrfTokenManagerInterface;

/**
 * Stands before every action of a company: the person must belong to it, the action must name what it needs, the person
 * must have that, and every change must carry the token. An action without #[Needs] is closed.
 */
final readonly class Gate implements ValueResolverInterface
{
    public function __construct(
        private Security $security,
        private CsrfTokenManagerInterface $tokens,
        private BooksDay $booksDay,
    ) {
    }

    #[AsEventListener]
    public function onController(ControllerEvent $event): void
    {
        $request = $event->getRequest();
        $code = $request->attributes->get('company');
        if (!\is_string($code)) {
            return;
        }
        $controller = $event->getController();
        if (\is_array($controller) && $controller[0] instanceof RedirectController && $request->isMethodSafe()) {
            return; // a slash too many leads to the address without it, which is looked at when it is asked for
        }
        $user = $this->security->getUser();
        if (!$user instanceof Person) {
            throw new AccessDeniedException();
        }
        $company = $user->company($code);
        if (null === $company) {
            throw new NotFoundHttpException('There is no such company, or you do not work in it.');
        }
        $needs = $event->getAttributes(Needs::class)[0] ?? null;
        $needs = $needs instanceof Needs ? $needs : null;
        $side = Side::tryFrom((string) $request->attributes->get('side', ''));
        if (null === $needs || !$user->may($needs->permission($side), $company)) {
            throw new AccessDeniedHttpException(
                null === $needs
                    ? 'This action is closed.'
                    : \sprintf('Your role may not %s here.', $needs->permission($side)->value),
            );
        }
        if (
            !$request->isMethodSafe()
            && !$this->tokens->isTokenValid(
                new CsrfToken(
                    'nelbix',
                    (string) ($request->request->get('_token') ?? $request->headers->get('X-Token', '')),
                ),
            )
        ) {
            throw new AccessDeniedHttpException(
                'The page is too old to be sent; go back, load it anew and send it again. Nothing was changed.',
            );
        }
        $request->attributes->set(
            '_desk',
            new Desk($company, $user, Actor::of($company, $user), $this->booksDay->of($company->id())),
        );
    }

    /** @return iterable<Desk> */
    public function resolve(Request $request, ArgumentMetadata $argument): iterable
    {
        $desk = $request->attributes->get('_desk');

        return Desk::class === $argument->getType() && $desk instanceof Desk ? [$desk] : [];
    }
}
