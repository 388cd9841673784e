<?php

declare(strict_types=1);

namespace Nelbix\App\People;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\History;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;

/** What a person does in a company: roles, the most they approve, and why somebody has duties that are better kept apart. */
final readonly class Duties
{
    public function __construct(
        private EntityManagerInterface $entities,
        private History $history,
        private Presences $presences,
    ) {
    }

    /**
     * @param array<mixed> $raw roles[] and limit as typed, in base currency (empty: any amount), reason
     *
     * @return array{list<Role>, ?int, string} roles, limit in minor units, reason
     *
     * @throws Refused with every problem
     */
    public static function read(array $raw, string $baseCurrency): array
    {
        $roles = $problems = [];
        foreach (\is_array($raw['roles'] ?? null) ? $raw['roles'] : [] as $value) {
            $role = \is_string($value) ? Role::tryFrom($value) : null;
            if (null === $role) {
                $problems['roles'] = new Problem('roles', 'Choose roles from the list.');
            } else {
                $roles[$role->value] = $role;
            }
        }
        $typed = \is_string($raw['limit'] ?? null) ? trim($raw['limit']) : '';
        $limit = null;
        try {
            $limit = '' === $typed ? null : AmountInput::read($typed, Currency::of($baseCurrency), 'limit')->minor;
        } catch (Refused $e) {
            $problems['limit'] = $e->problems[0];
        }
        if (null !== $limit && $limit < 0) {
            $problems['limit'] = new Problem('limit', 'The limit is not below zero; empty means any amount.');
        }
        $reason = \is_string($raw['reason'] ?? null) ? mb_substr(trim($raw['reason']), 0, 255) : '';
        $apart = Role::apart(array_values($roles));
        if ([] !== $apart && '' === $reason) {
            $problems['reason'] = new Problem(
                'reason',
                \sprintf('These duties are better kept apart: %s. Say why one person has them.', implode('; ', $apart)),
            );
        }
        if ([] !== $problems) {
            throw Refused::all(array_values($problems));
        }

        return [array_values($roles), $limit, [] === $apart ? '' : $reason];
    }

    /**
     * Gives a person exactly these roles; whoever loses one is signed out everywhere at once.
     *
     * @param list<Role> $roles none takes the person out of the company
     *
     * @throws Refused when the company would be left without a controller
     */
    public function set(Actor $actor, User $user, array $roles, ?int $limit, string $reason): void
    {
        $company = $this->entities->find(Company::class, $actor->companyId) ?? throw new \LogicException();
        $this->hold($company);
        $before = $this->words($user, $company);
        $lost = false;
        $have = [];
        foreach ($this->of($user, $company) as $membership) {
            if (\in_array($membership->role, $roles, true)) {
                $have[$membership->role->value] = true;
                $membership->approvalLimit = $limit;
                $membership->dutiesReason = $reason;
            } else {
                $lost = true;
                if (Role::Controller === $membership->role) {
                    $this->anotherController($company, $user);
                }
                $user->memberships->removeElement($membership);
                $this->entities->remove($membership);
            }
        }
        foreach ($roles as $role) {
            if (!isset($have[$role->value])) {
                $membership = new Membership($user, $company, $role);
                $membership->approvalLimit = $limit;
                $membership->dutiesReason = $reason;
                $user->memberships->add($membership);
                $this->entities->persist($membership);
            }
        }
        $this->entities->flush();
        if ($lost) {
            $this->presences->endAll($user->id());
        }
        $this->history->change($actor, 'person', $user->id(), $before, $this->words($user, $company));
    }

    /** Changes of the people of a company wait for each other, so that two cannot take the last two controllers away at once. */
    public function hold(Company $company): void
    {
        $this->entities->getConnection()->fetchOne('SELECT id FROM company WHERE id = ? FOR UPDATE', [$company->id()]);
    }

    /** @throws Refused when nobody else could sign in to the company as a controller */
    public function anotherController(Company $company, User $user): void
    {
        $another = $this->entities->getConnection()->fetchOne(
            <<<'SQL'
            SELECT 1
            FROM membership m
            JOIN app_user u ON u.id = m.user_id
            WHERE m.company_id = ? AND m.role = 'controller' AND u.id <> ? AND u.retired = 0 AND u.password_hash <> ''
            SQL
            ,
            [$company->id(), $user->id()],
        );
        if (false === $another) {
            throw Refused::because(
                'roles',
                \sprintf(
                    '%s is the last controller of %s; make somebody else a controller first, who has set a password.',
                    $user->name,
                    $company->name,
                ),
            );
        }
    }

    /** @return list<Membership> */
    private function of(User $user, Company $company): array
    {
        return array_values(
            $user->memberships
                ->filter(static fn (Membership $m): bool => $m->company->id() === $company->id())
                ->toArray(),
        );
    }

    /** @return array<string, string> */
    private function words(User $user, Company $company): array
    {
        $mine = $this->of($user, $company);
        $roles = array_map(static fn (Membership $m): string => $m->role->words(), $mine);
        sort($roles);
        $limit = $mine[0]->approvalLimit ?? null;

        return [
            'name' => $user->name,
            'roles' => implode(', ', $roles),
            'approves_up_to' => match (true) {
                [] === $mine => '',
                null === $limit => 'any amount',
                default => Money::of($limit, $company->baseCurrency)->decimal(),
            },
            'reason_for_the_duties' => $mine[0]->dutiesReason ?? '',
        ];
    }
}
