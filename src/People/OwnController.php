<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Core\Authentication\Token\Storage\TokenStorageInterface;

/** What a person sets for themselves: password, keys, second factor, where they are signed in. */
#[Route('/{company}', requirements: ['company' => '[A-Z0-9]{2,12}', 'presence' => '\d{1,9}'])]
final class OwnController extends Screen
{
    /** Where the session keeps a secret that is offered and not taken yet. */
    private const OFFERED = 'second_factor_offered';

    public function __construct(
        private readonly Presences $presences,
        private readonly SecondFactor $secondFactor,
        private readonly RecoveryCodes $codes,
        private readonly SignIns $signIns,
        private readonly TokenStorageInterface $tokens,
    ) {
    }

    #[Route('/own', name: 'own', methods: ['GET'])]
    #[Needs(Permission::Enter)]
    public function own(Desk $desk, Request $request): Response
    {
        return $this->page($desk, $request);
    }

    #[Route('/own/password', name: 'own_password', methods: ['POST'])]
    #[Needs(Permission::Enter)]
    public function password(Desk $desk, Request $request, SetPassword $setPassword): Response
    {
        return $this->onOwn($desk, $request, function (User $user) use ($request, $setPassword): void {
            $setPassword->byPerson(
                $user,
                (string) $request->request->get('present', ''),
                (string) $request->request->get('password', ''),
                (string) $request->request->get('again', ''),
                $this->presence(),
                $request,
            );
            $this->say('Your new password holds. Everywhere else you are signed out.');
        });
    }

    #[Route('/own/second-factor', name: 'second_factor_offer', methods: ['POST'])]
    #[Needs(Permission::Enter)]
    public function offer(Desk $desk, Request $request): Response
    {
        return $this->onOwn($desk, $request, function () use ($request): void {
            $request->getSession()->set(self::OFFERED, $this->secondFactor->offer());
        });
    }

    #[Route('/own/second-factor/begin', name: 'second_factor_begin', methods: ['POST'])]
    #[Needs(Permission::Enter)]
    public function begin(Desk $desk, Request $request): Response
    {
        return $this->onOwn($desk, $request, function (User $user) use ($request): void {
            $offered = $request->getSession()->get(self::OFFERED);
            if (!\is_string($offered)) {
                throw Refused::because('', 'Begin anew: this page is old.');
            }
            $codes = $this->secondFactor->begin($user, $offered, (string) $request->request->get('code', ''), $request);
            $request->getSession()->remove(self::OFFERED);
            $this->addFlash('codes', implode(' ', $codes));
        });
    }

    #[Route('/own/second-factor/end', name: 'second_factor_end', methods: ['POST'])]
    #[Needs(Permission::Enter)]
    public function end(Desk $desk, Request $request): Response
    {
        return $this->onOwn($desk, $request, function (User $user) use ($request): void {
            $this->secondFactor->end($user, (string) $request->request->get('end_password', ''), $request);
            $this->say('You sign in with the password alone now.');
        });
    }

    #[Route('/own/sign-out/{presence}', name: 'own_sign_out', methods: ['POST'])]
    #[Needs(Permission::Enter)]
    public function signOut(Desk $desk, int $presence, Request $request): Response
    {
        return $this->onOwn($desk, $request, function (User $user) use ($presence): void {
            if (
                !\in_array($presence, array_map('intval', array_column($this->presences->of($user->id()), 'id')), true)
            ) {
                throw $this->createNotFoundException('You are not signed in there.');
            }
            $this->presences->end($presence);
            $this->say('Signed out there.');
        });
    }

    #[Route('/own/sign-out', name: 'own_sign_out_elsewhere', methods: ['POST'])]
    #[Needs(Permission::Enter)]
    public function signOutElsewhere(Desk $desk, Request $request): Response
    {
        return $this->onOwn($desk, $request, function (User $user): void {
            $count = $this->presences->endAll($user->id(), $this->presence());
            $this->say(
                0 === $count ? 'You were signed in nowhere else.' : \sprintf('Signed out in %d other places.', $count),
            );
        });
    }

    #[Route('/keys', name: 'single_keys', methods: ['POST'])]
    #[Needs(Permission::Enter)]
    public function singleKeys(Desk $desk, Transaction $transaction): Response
    {
        $user = $this->user($desk);
        $transaction->run(static function () use ($user): void {
            $user->singleKeys = !$user->singleKeys;
        });
        $this->say(
            $user->singleKeys
                ? 'Single keys are on.'
                : 'Single keys are off for you; keys with Ctrl and Alt still work.',
        );

        return $this->redirectToRoute('today', ['company' => $desk->company->code], 303);
    }

    /** @param callable(User): void $action */
    private function onOwn(Desk $desk, Request $request, callable $action): Response
    {
        try {
            $action($this->user($desk));
        } catch (Refused $e) {
            return $this->page($desk, $request, self::byField($e->problems));
        }

        return $this->redirectToRoute('own', ['company' => $desk->company->code], 303);
    }

    private function user(Desk $desk): User
    {
        return $desk->user instanceof User
            ? $desk->user
            : throw $this->createNotFoundException('Nobody of this name works here.');
    }

    private function presence(): int
    {
        $token = $this->tokens->getToken();

        return null !== $token && $token->hasAttribute('presence') ? (int) $token->getAttribute('presence') : 0;
    }

    /** @param array<string, string> $errors */
    private function page(Desk $desk, Request $request, array $errors = []): Response
    {
        $user = $this->user($desk);
        $offered = null === $user->secondFactor ? $request->getSession()->get(self::OFFERED) : null;
        $secret = \is_string($offered) ? $this->secondFactor->reveal($offered) : null;

        return $this->render(
            'people/own.html.twig',
            [
                'user' => $user,
                'errors' => $errors,
                'here' => $this->presence(),
                'presences' => $this->presences->of($user->id()),
                'sign_ins' => $this->signIns->of($user->id()),
                'codes_left' => null === $user->secondFactor ? 0 : $this->codes->left($user),
                'secret' => null === $secret ? null : OneTimeCode::base32($secret),
                'qr' => null === $secret ? null : QrCode::of(OneTimeCode::address($secret, $user->username)),
            ],
            new Response(null, [] === $errors ? 200 : 422),
        );
    }
}
