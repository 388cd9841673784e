<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\Demo\Names;
use Nelbix\Demo\Tamarack;
use Symfony\Bundle\FrameworkBundle\Controller\AbstractController;
use Symfony\Component\DependencyInjection\Attribute\Autowire;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Csrf\CsrfTokenManagerInterface;
use Symfony\Component\Security\Http\Authentication\AuthenticationUtils;

final class SignInController extends AbstractController
{
    public function __construct(
        #[Autowire('%env(bool:NELBIX_DEMO)%')] private readonly bool $demoMode,
        private readonly Colleagues $colleagues,
    ) {
    }

    #[Route('/sign-in', name: 'sign_in', methods: ['GET', 'POST'])]
    public function signIn(AuthenticationUtils $utils, FirstPerson $first): Response
    {
        if (null !== $this->getUser()) {
            return $this->redirectToRoute('home');
        }
        if ($first->isAwaited()) {
            return $this->redirectToRoute('begin');
        }
        $error = $utils->getLastAuthenticationError();

        return $this->render(
            'people/sign_in.html.twig',
            [
                'last' => $utils->getLastUsername(),
                'error' => null === $error
                        ? null
                        : strtr(
                            $error->getMessageKey(),
                            array_combine(
                                array_map(
                                    static fn (mixed $k): string => (string) $k,
                                    array_keys($error->getMessageData()),
                                ),
                                array_map(
                                    static fn (mixed $v): string => (string) $v,
                                    array_values($error->getMessageData()),
                                ),
                            ),
                        ),
                'demo' => $this->demoMode && $this->colleagues->areOfTheDemo()
                        ? array_map(
                            static fn (array $u): array => [
                                'username' => $u[0],
                                'name' => $u[1],
                                'role' => Role::from($u[2])->words(),
                            ],
                            Names::USERS,
                        )
                        : [],
                'password' => Tamarack::PASSWORD,
            ],
            new Response(null, null === $error ? 200 : 422),
        );
    }

    /** Whether whoever has a page open is still signed in, and the token that forms carry now. */
    #[Route('/still-here', name: 'still_here', methods: ['GET'])]
    public function stillHere(CsrfTokenManagerInterface $tokens): Response
    {
        $user = $this->getUser();

        return null === $user
            ? new JsonResponse(null, Response::HTTP_UNAUTHORIZED)
            : new JsonResponse([
                'name' => $user->getUserIdentifier(),
                'token' => $tokens->getToken('nelbix')->getValue(),
            ]);
    }

    #[Route('/', name: 'home', methods: ['GET'])]
    public function home(): Response
    {
        $user = $this->getUser();
        foreach ($user instanceof User ? $user->memberships : [] as $membership) {
            return $this->redirectToRoute('today', ['company' => $membership->company->code]);
        }

        return $this->redirectToRoute('begin_company');
    }
}
