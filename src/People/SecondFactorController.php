<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\App\Platform\Screen;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Core\Authentication\Token\Storage\TokenStorageInterface;

/** Asks for the second factor of somebody who gave the password. */
final class SecondFactorController extends Screen
{
    #[Route('/second-factor', name: 'second_factor', methods: ['GET', 'POST'])]
    public function ask(Request $request, SecondFactor $secondFactor, TokenStorageInterface $tokens): Response
    {
        $token = $tokens->getToken();
        $user = $token?->getUser();
        if (null === $token || !($user instanceof User) || null === $user->secondFactor) {
            return $this->redirectToRoute('home');
        }
        $error = null;
        if ($request->isMethod('POST')) {
            try {
                if (!$this->isCsrfTokenValid('second_factor', (string) $request->request->get('_token', ''))) {
                    throw Refused::because('code', 'The page was too old; type the code again.');
                }
                $code = (string) $request->request->get('code', '');
                $secondFactor->pass($user, (int) $token->getAttribute('presence'), $code, $request);
                $request->getSession()->migrate(true);

                return $this->redirectToRoute('home', [], 303);
            } catch (Refused $e) {
                $error = $e->getMessage();
            }
        }

        return $this->render(
            'people/second_factor.html.twig',
            ['error' => $error],
            new Response(null, null === $error ? 200 : 422),
        );
    }
}
