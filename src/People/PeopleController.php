<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\Needs;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Screen;
use Nelbix\Core\Refused;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Routing\Generator\UrlGeneratorInterface;

/** The people of a company: who works here, as what, up to which amount, and who stands in for whom. */
#[Route('/{company}/people', requirements: ['company' => '[A-Z0-9]{2,12}', 'id' => '\d{1,9}'])]
final class PeopleController extends Screen
{
    public function __construct(
        private readonly PeopleQuery $people,
        private readonly SignIns $signIns,
        private readonly Substitutes $substitutes,
        private readonly HistoryQuery $history,
    ) {
    }

    #[Route('', name: 'people', methods: ['GET'])]
    #[Needs(Permission::SeeSetup)]
    public function list(Desk $desk): Response
    {
        return $this->listPage($desk, [
            'username' => '',
            'name' => '',
            'email' => '',
            'limit' => '',
            'reason' => '',
            'roles' => [],
        ]);
    }

    #[Route('', name: 'person_add', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function add(Desk $desk, Request $request, AddPerson $addPerson): Response
    {
        $raw = $request->request->all();
        try {
            ['id' => $id, 'token' => $token] = $addPerson->add($desk->actor, $raw);
        } catch (Refused $e) {
            return $this->listPage($desk, self::typed($raw), self::byField($e->problems));
        }
        $this->show($token);
        $this->say(null === $token ? 'Added. They sign in with the password they have.' : 'Added.');

        return $this->redirectToRoute('person', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    #[Route('/{id}', name: 'person', methods: ['GET'])]
    #[Needs(Permission::SeeSetup)]
    public function person(Desk $desk, int $id): Response
    {
        return $this->personPage($desk, $id);
    }

    #[Route('/{id}', name: 'person_change', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function change(Desk $desk, int $id, Request $request, ChangePerson $changePerson): Response
    {
        $raw = $request->request->all();
        try {
            $user = $changePerson->change($desk->actor, $id, $raw);
        } catch (Refused $e) {
            return $this->personPage($desk, $id, self::typed($raw), self::byField($e->problems));
        }
        if (!$user->worksIn($desk->company)) {
            $this->say($user->name.' no longer works in this company.');

            return $this->redirectToRoute('people', ['company' => $desk->company->code], 303);
        }
        $this->say('Kept.');

        return $this->redirectToRoute('person', ['company' => $desk->company->code, 'id' => $id], 303);
    }

    #[Route('/{id}/retire', name: 'person_retire', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function retire(Desk $desk, int $id, Request $request, RetirePerson $retirePerson): Response
    {
        $retired = 'retire' === $request->request->get('to');
        $reason = (string) $request->request->get('why', '');

        return $this->on($desk, $id, static function () use ($desk, $id, $retired, $reason, $retirePerson): string {
            $user = $retirePerson->set($desk->actor, $id, $retired, $reason);

            return $retired
                ? $user->name.' is retired and signed out everywhere.'
                : $user->name.' is back. They need a new link when they have lost their password.';
        });
    }

    #[Route('/{id}/link', name: 'person_link', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function link(Desk $desk, int $id, MakeLink $makeLink): Response
    {
        return $this->on($desk, $id, function () use ($desk, $id, $makeLink): ?string {
            $this->show($makeLink->make($desk->actor, $id));

            return null;
        });
    }

    #[Route('/{id}/second-factor', name: 'person_second_factor', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function secondFactor(Desk $desk, int $id, Request $request, LoseSecondFactor $lose): Response
    {
        $why = (string) $request->request->get('why', '');

        return $this->on($desk, $id, static function () use ($desk, $id, $lose, $why): string {
            return $lose->take($desk->actor, $id, $why)->name.' signs in with the password alone now.';
        });
    }

    #[Route('/{id}/substitute', name: 'substitute_begin', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function substitute(Desk $desk, int $id, Request $request, StandIn $standIn): Response
    {
        $raw = $request->request->all();

        return $this->on($desk, $id, static fn (): string => $standIn->begin($desk->actor, $id, $raw));
    }

    #[Route('/substitute/{id}/end', name: 'substitute_end', methods: ['POST'])]
    #[Needs(Permission::Control)]
    public function substituteEnd(Desk $desk, int $id, StandIn $standIn): Response
    {
        return $this->act(static fn (): string => $standIn->end($desk->actor, $id), 'people', [
            'company' => $desk->company->code,
        ]);
    }

    /** @param callable(): ?string $action */
    private function on(Desk $desk, int $id, callable $action): Response
    {
        return $this->act($action, 'person', ['company' => $desk->company->code, 'id' => $id]);
    }

    /** The link is shown once, on the page that follows. */
    private function show(#[\SensitiveParameter] ?string $token): void
    {
        if (null !== $token) {
            $this->addFlash(
                'link',
                $this->generateUrl('personal_link', ['token' => $token], UrlGeneratorInterface::ABSOLUTE_URL),
            );
        }
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<string, mixed> as the form shows it again
     */
    private static function typed(array $raw): array
    {
        $form = ['roles' => array_filter(\is_array($raw['roles'] ?? null) ? $raw['roles'] : [], is_string(...))];
        foreach (['username', 'name', 'email', 'limit', 'reason'] as $field) {
            $form[$field] = \is_string($raw[$field] ?? null) ? $raw[$field] : '';
        }

        return $form;
    }

    /**
     * @param array<string, mixed> $form
     * @param array<string, string> $errors
     */
    private function listPage(Desk $desk, array $form, array $errors = []): Response
    {
        $people = $this->people->of($desk->id());

        return $this->render(
            'people/people.html.twig',
            [
                'people' => $people,
                'substitutes' => $this->substitutes->ofCompany($desk->id()),
                'sign_ins' => $this->signIns->ofCompany($desk->id()),
                'form' => $form,
                'errors' => $errors,
                'roles' => Role::cases(),
                'apart' => self::apart($people),
            ],
            new Response(null, [] === $errors ? 200 : 422),
        );
    }

    /**
     * @param list<array{id: int, roles: list<Role>, ...}> $people
     *
     * @return array<int, list<string>> by person: duties that are better kept apart
     */
    private static function apart(array $people): array
    {
        return array_filter(array_map(Role::apart(...), array_column($people, 'roles', 'id')));
    }

    /**
     * @param array<string, mixed>|null $form
     * @param array<string, string> $errors
     */
    private function personPage(Desk $desk, int $id, ?array $form = null, array $errors = []): Response
    {
        $people = array_column($this->people->of($desk->id()), null, 'id');
        $person = $people[$id] ?? throw $this->createNotFoundException('There is no such person in this company.');

        return $this->render(
            'people/person.html.twig',
            [
                'person' => $person,
                'form' => $form,
                'errors' => $errors,
                'roles' => Role::cases(),
                'others' => array_filter(
                    $people,
                    static fn (array $p): bool => $p['id'] !== $id && 'retired' !== $p['state'],
                ),
                'substitutes' => array_filter(
                    $this->substitutes->ofCompany($desk->id()),
                    static fn (array $s): bool => \in_array($id, [(int) $s['absent_id'], (int) $s['deputy_id']], true),
                ),
                'sign_ins' => $this->signIns->of($id),
                'history' => $this->history->of($desk->id(), 'person', $id),
                'apart' => Role::apart($person['roles']),
            ],
            new Response(null, [] === $errors ? 200 : 422),
        );
    }
}
