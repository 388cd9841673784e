<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\App\Platform\Screen;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;

/** The page behind a personal link: somebody sets the password they will sign in with. */
final class LinkController extends Screen
{
    #[Route('/link/{token}', name: 'personal_link', requirements: ['token' => '[A-Za-z0-9_-]{43}'], methods: ['GET'])]
    public function page(string $token, PersonalLinks $links): Response
    {
        return $this->form($token, $links->open($token));
    }

    #[Route(
        '/link/{token}',
        name: 'personal_link_set',
        requirements: ['token' => '[A-Za-z0-9_-]{43}'],
        methods: ['POST'],
    ),]
    public function set(string $token, Request $request, PersonalLinks $links, SetPassword $setPassword): Response
    {
        if (!$this->isCsrfTokenValid('personal_link', (string) $request->request->get('_token', ''))) {
            return $this->form($token, $links->open($token), ['password' => 'The page was too old; type it again.']);
        }
        try {
            $user = $setPassword->byLink(
                $token,
                (string) $request->request->get('password', ''),
                (string) $request->request->get('again', ''),
                $request,
            );
        } catch (Refused $e) {
            return $this->form($token, $links->open($token), self::byField($e->problems));
        }
        $this->say(\sprintf('Your password is set, %s. Sign in as %s.', $user->name, $user->username));

        return $this->redirectToRoute('sign_in', [], 303);
    }

    /** @param array<string, string> $errors */
    private function form(string $token, ?User $user, array $errors = []): Response
    {
        return $this->render(
            'people/link.html.twig',
            ['token' => $token, 'user' => $user, 'errors' => $errors],
            new Response(null, null === $user ? 404 : ([] === $errors ? 200 : 422)),
        );
    }
}
