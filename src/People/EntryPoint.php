<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Symfony\Component\HttpFoundation\RedirectResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Generator\UrlGeneratorInterface;
use Symfony\Component\Security\Core\Exception\AuthenticationException;
use Symfony\Component\Security\Http\EntryPoint\AuthenticationEntryPointInterface;

/** Whoever is not signed in goes to the sign-in; what a page asks for by itself is told so, and the page asks the person. */
final readonly class EntryPoint implements AuthenticationEntryPointInterface
{
    public function __construct(private UrlGeneratorInterface $urls)
    {
    }

    /** A page asked for it by itself, with htmx or a script: somebody looks at that page, and it must stay. */
    public static function isAskedByAPage(Request $request): bool
    {
        $mode = $request->headers->get('Sec-Fetch-Mode');

        return 'true' === $request->headers->get('HX-Request') || (null !== $mode && 'navigate' !== $mode);
    }

    public function start(Request $request, ?AuthenticationException $authException = null): Response
    {
        return self::isAskedByAPage($request)
            ? new Response('', Response::HTTP_UNAUTHORIZED)
            : new RedirectResponse($this->urls->generate('sign_in'));
    }
}
