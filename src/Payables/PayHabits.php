<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Keeps pay habits, for oneself or for everybody in the company, and starts from one with its dates moved on. */
final readonly class PayHabits
{
    private const KEPT = [
        'bank',
        'method',
        'vendors',
        'groups',
        'currency',
        'if_late',
        'at_least',
        'cash',
        'per_invoice',
    ];

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private CriteriaReader $reader,
        private History $history,
    ) {
    }

    /** @return list<PayHabit> one's own and those that are shared, by name */
    public function of(Actor $actor): array
    {
        /** @var list<PayHabit> */
        return $this->entities
            ->createQuery(
                'SELECT h FROM '.
                    PayHabit::class.
                    ' h WHERE h.companyId = :company AND (h.shared = true OR h.createdById = :user) ORDER BY h.name, h.id',
            )
            ->setParameters(['company' => $actor->companyId, 'user' => $actor->userId])
            ->getResult();
    }

    /**
     * Keeps the criteria of a form; one's own habit of the same name is replaced.
     *
     * @param array<mixed> $raw as CriteriaReader::read takes it
     *
     * @throws Refused when the name is missing or the criteria are wrong
     */
    public function keep(Actor $actor, string $name, bool $shared, array $raw): PayHabit
    {
        $problems = new ProblemList();
        $problems->attempt(static fn () => RecordCheck::name(trim($name), 60, 'habit_name'));
        $read = $problems->attempt(fn (): array => $this->reader->read($actor, $raw));
        $problems->refuse();
        \assert(null !== $read);
        $fields = new Fields($raw);
        $criteria = array_filter(
            array_combine(self::KEPT, array_map($fields->text(...), self::KEPT)),
            static fn (string $v): bool => '' !== $v,
        );
        foreach (
            [
                'due_through' => ['due_days', $read['criteria']->dueThrough],
                'again_on' => ['again_days', $read['criteria']->againOn],
            ] as $key => [$kept, $day]
        ) {
            if ('' !== $fields->text($key)) {
                $criteria[$kept] = (string) $read['criteria']->payDate->daysUntil($day);
            }
        }

        return $this->transaction->run(function () use ($actor, $name, $shared, $criteria): PayHabit {
            $habit =
                $this->entities->getRepository(PayHabit::class)->findOneBy([
                    'companyId' => $actor->companyId,
                    'createdById' => $actor->userId,
                    'name' => trim($name),
                ]) ?? new PayHabit($actor->companyId, trim($name), $criteria, $shared, $actor->userId);
            $habit->criteria = $criteria;
            $habit->shared = $shared;
            $this->entities->persist($habit);
            $this->entities->flush();
            $this->history->note(
                $actor,
                'company',
                $actor->companyId,
                'pay habit kept',
                $habit->name.($shared ? ', for everybody' : ''),
            );

            return $habit;
        });
    }

    /** @throws Refused when it is not one's own, or the name is taken */
    public function rename(Actor $actor, int $id, string $name): void
    {
        $this->transaction->run(function () use ($actor, $id, $name): void {
            $habit = $this->own($actor, $id);
            RecordCheck::name(trim($name), 60, 'habit_name');
            $taken = $this->entities
                ->getRepository(PayHabit::class)
                ->findOneBy(['companyId' => $actor->companyId, 'createdById' => $actor->userId, 'name' => trim($name)]);
            if (null !== $taken && $taken !== $habit) {
                throw Refused::because(
                    'habit_name',
                    \sprintf('There is a pay habit “%s” already; choose another name.', trim($name)),
                );
            }
            $this->history->note(
                $actor,
                'company',
                $actor->companyId,
                'pay habit renamed',
                \sprintf('from %s to %s', $habit->name, trim($name)),
            );
            $habit->name = trim($name);
        });
    }

    /** @throws Refused when it is not one's own */
    public function remove(Actor $actor, int $id): void
    {
        $this->transaction->run(function () use ($actor, $id): void {
            $habit = $this->own($actor, $id);
            $this->history->note($actor, 'company', $actor->companyId, 'pay habit removed', $habit->name);
            $this->entities->remove($habit);
        });
    }

    /**
     * The criteria of a habit for a pay date, its other dates as far from it as they were.
     *
     * @return array<string, string> as CriteriaReader::read takes it
     *
     * @throws Refused when there is none of that number or name
     */
    public function start(Actor $actor, string $idOrName, Day $payDate): array
    {
        foreach ($this->of($actor) as $habit) {
            if ((string) $habit->id() === $idOrName || $habit->name === $idOrName) {
                $raw = [
                    'pay_date' => $payDate->iso(),
                    ...array_diff_key($habit->criteria, ['due_days' => 1, 'again_days' => 1]),
                ];
                foreach (['due_days' => 'due_through', 'again_days' => 'again_on'] as $kept => $key) {
                    if (isset($habit->criteria[$kept])) {
                        $raw[$key] = $payDate->plusDays((int) $habit->criteria[$kept])->iso();
                    }
                }

                return $raw;
            }
        }
        throw Refused::because(
            'habit',
            \sprintf('There is no pay habit “%s”.', mb_strimwidth($idOrName, 0, 60, '…')),
            ProblemKind::Unknown,
        );
    }

    /** @throws Refused */
    private function own(Actor $actor, int $id): PayHabit
    {
        $habit = $this->entities->find(PayHabit::class, $id);

        return null !== $habit && $habit->companyId === $actor->companyId && $habit->createdById === $actor->userId
            ? $habit
            : throw Refused::because(
                '',
                'This pay habit is somebody else’s; keep it under a name of your own to change it.',
            );
    }
}
