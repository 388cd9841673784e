<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Adds, changes, moves, switches on and off or retires a rule of a set. */
final readonly class SaveRule
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private PairingLock $lock,
        private Chart $chart,
        private History $history,
    ) {
    }

    /**
     * @param array<mixed> $raw see Clauses, and version
     *
     * @throws Refused with every problem
     */
    public function save(Actor $actor, int $setId, array $raw, ?int $id): int
    {
        return $this->transaction->run(function () use ($actor, $setId, $raw, $id): int {
            $set = $this->lock->set($actor, $setId);
            $this->lock->mustNotRun($set);
            $clauses = self::clauses($set, $raw);
            $adjusts = $set->source($set->adjusts);
            if ('' !== $clauses['account'] && $adjusts->companyId === $actor->companyId) {
                $this->chart->ofLine($actor->companyId, $clauses['account'], 'account');
            }
            $rule = null === $id ? null : $this->rule($set, $id);
            if (
                null !== $rule
                && (string) $rule->version !== (\is_string($raw['version'] ?? null) ? $raw['version'] : '')
            ) {
                throw Refused::because('', 'Somebody else changed this rule in the meantime; load the page anew.');
            }
            $rule ??= new PairingRuleRecord($setId, 1 + \count($this->inUse($set)), $clauses);
            $rule->clauses = $clauses;
            $this->entities->persist($rule);
            $this->entities->flush();
            $this->history->note(
                $actor,
                'pairing_set',
                $setId,
                null === $id ? 'rule added' : 'rule changed',
                'rule '.$rule->place,
            );

            return $rule->id();
        });
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<string, mixed>
     *
     * @throws Refused with every problem
     */
    public static function clauses(PairingSet $set, array $raw): array
    {
        return Clauses::read(
            $raw,
            $set->sharedNames(),
            $set->source('left')->fields(),
            $set->source('right')->fields(),
            $set->currency,
        );
    }

    /** @param 'up'|'down'|'on'|'off'|'retire' $what */
    public function change(Actor $actor, int $setId, int $id, string $what): void
    {
        $this->transaction->run(function () use ($actor, $setId, $id, $what): void {
            $set = $this->lock->set($actor, $setId);
            $this->lock->mustNotRun($set);
            $rule = $this->rule($set, $id);
            match ($what) {
                'on' => ($rule->switchedOn = true),
                'off' => ($rule->switchedOn = false),
                'retire' => ($rule->retired = true),
                default => null,
            };
            $this->entities->flush();
            $rules = $this->inUse($set);
            $at = array_search($rule, $rules, true);
            $to = false === $at ? -1 : $at + (['up' => -1, 'down' => 1][$what] ?? 0);
            if (false !== $at && $to !== $at && isset($rules[$to])) {
                [$rules[$at], $rules[$to]] = [$rules[$to], $rules[$at]];
            }
            foreach (array_values($rules) as $place => $one) {
                $one->place = $place + 1;
            }
            $this->history->note($actor, 'pairing_set', $setId, 'rule '.$what, 'rule '.$rule->place);
        });
    }

    private function rule(PairingSet $set, int $id): PairingRuleRecord
    {
        $rule = $this->entities->find(PairingRuleRecord::class, $id, LockMode::PESSIMISTIC_WRITE);
        if (null === $rule || $rule->setId !== $set->id() || $rule->retired) {
            throw Refused::because('', 'There is no such rule in this set.', ProblemKind::Unknown);
        }
        $this->entities->refresh($rule, LockMode::PESSIMISTIC_WRITE);

        return $rule;
    }

    /** @return list<PairingRuleRecord> */
    private function inUse(PairingSet $set): array
    {
        return $this->entities
            ->getRepository(PairingRuleRecord::class)
            ->findBy(['setId' => $set->id(), 'retired' => false], ['place' => 'ASC', 'id' => 'ASC']);
    }
}
