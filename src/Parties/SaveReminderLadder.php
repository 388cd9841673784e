<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Adds or changes a reminder ladder. */
final readonly class SaveReminderLadder
{
    private const MOST_RUNGS = 9;

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private History $history,
    ) {
    }

    /**
     * @param array<mixed> $raw code, name, rungs, retired; fees and texts, of each rung, when they are told
     *
     * @throws Refused with every problem
     */
    public function save(Actor $actor, array $raw, ?int $id = null): int
    {
        return $this->transaction->run(function () use ($actor, $raw, $id): int {
            $problems = new ProblemList();
            $fields = new Fields($raw);
            $ladder = null === $id ? null : $this->entities->find(ReminderLadder::class, $id);
            if (null !== $id && $ladder?->companyId !== $actor->companyId) {
                throw Refused::because('', 'There is no such ladder in this company.', ProblemKind::Unknown);
            }
            $problems->attempt(
                fn () => null === $ladder
                    ? RecordCheck::code($this->entities, ReminderLadder::class, $actor, $fields->text('code'))
                    : null,
            );
            $problems->attempt(static fn () => RecordCheck::name($fields->text('name'), 120));
            $rungs = $problems->attempt(static fn (): string => self::rungs($fields->text('rungs'))) ?? '';
            $count = \count(explode(' ', $rungs));
            $fees = $problems->attempt(static fn (): string => self::fees($fields->text('fees'), $count, $actor)) ?? '';
            $texts = $problems->attempt(static fn (): string => self::texts($fields->text('texts'), $count)) ?? '';
            $problems->refuse();
            $before = null === $ladder ? [] : self::values($ladder);
            $ladder ??= new ReminderLadder($actor->companyId, $fields->text('code'), $fields->text('name'), $rungs);
            $ladder->name = $fields->text('name');
            $ladder->rungs = $rungs;
            $ladder->fees = $fields->has('fees') ? $fees : $ladder->fees;
            $ladder->texts = $fields->has('texts') ? $texts : $ladder->texts;
            $ladder->retired = $fields->yes('retired');
            $this->entities->persist($ladder);
            $this->entities->flush();
            $this->history->change($actor, 'reminder-ladders', $ladder->id(), $before, self::values($ladder));

            return $ladder->id();
        });
    }

    /** @throws Refused */
    private static function rungs(string $typed): string
    {
        $days = preg_split('/[\s,;]+/', $typed, -1, \PREG_SPLIT_NO_EMPTY) ?: [];
        $last = 0;
        foreach ($days as $day) {
            if (1 !== preg_match('/\A[1-9]\d{0,2}\z/', $day) || (int) $day <= $last) {
                throw Refused::because(
                    'rungs',
                    \sprintf(
                        '“%s” is no rung here; give days past due that rise, such as 7 21 45.',
                        mb_strimwidth($day, 0, 20, '…'),
                    ),
                );
            }
            $last = (int) $day;
        }
        if ([] === $days || \count($days) > self::MOST_RUNGS) {
            throw Refused::because(
                'rungs',
                \sprintf('A ladder has one to %d rungs; give their days past due, such as 7 21 45.', self::MOST_RUNGS),
            );
        }

        return implode(' ', $days);
    }

    /** @throws Refused */
    private static function fees(string $typed, int $rungs, Actor $actor): string
    {
        $fees = preg_split('/[\s;]+/', $typed, -1, \PREG_SPLIT_NO_EMPTY) ?: [];
        if (\count($fees) > $rungs) {
            throw Refused::because(
                'fees',
                \sprintf('There are %d rungs; give a fee for each of them, or none.', $rungs),
            );
        }

        return implode(
            ' ',
            array_map(
                static fn (string $fee): string => Money::of(
                    abs(AmountInput::read($fee, Currency::of($actor->baseCurrency), 'fees')->minor),
                    $actor->baseCurrency,
                )->decimal(),
                $fees,
            ),
        );
    }

    /** @throws Refused */
    private static function texts(string $typed, int $rungs): string
    {
        $texts = '' === $typed ? [] : array_map(trim(...), explode('|', $typed));
        if (\count($texts) > $rungs || mb_strlen($typed) > 2000) {
            throw Refused::because(
                'texts',
                \sprintf(
                    'There are %d rungs; give a text for each of them, with | between, 2000 characters in all.',
                    $rungs,
                ),
            );
        }

        return implode(' | ', $texts);
    }

    /** @return array<string, string> */
    private static function values(ReminderLadder $l): array
    {
        return [
            'name' => $l->name,
            'rungs' => $l->rungs,
            'fees' => $l->fees,
            'texts' => $l->texts,
            'retired' => $l->retired ? 'yes' : 'no',
        ];
    }
}
