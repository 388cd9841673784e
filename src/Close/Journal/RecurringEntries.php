<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Calendar\Recurrence;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Entries by hand that come again: kept, stopped, and made into drafts on their days. Nothing is posted by itself. */
final readonly class RecurringEntries
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private BooksDay $booksDay,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param array<mixed> $raw every, weeks, until_on
     *
     * @throws Refused
     */
    public function keep(Actor $actor, JournalInput $input, array $raw, ?FormKey $form = null): int
    {
        $fields = new Fields($raw);
        $weeks = 1 === preg_match('/\A\d{1,2}\z/', $fields->text('weeks')) ? (int) $fields->text('weeks') : 1;
        $until =
            '' === $fields->text('until_on')
                ? null
                : $this->booksDay->input($actor->companyId)->read($fields->text('until_on'), 'until_on');
        // refuses what cannot be
        new Recurrence($input->day, $fields->text('every'), $weeks, $until);

        return $this->transaction->once($actor, 'recurring_entry', $form, function () use (
            $actor,
            $input,
            $fields,
            $weeks,
            $until,
        ): int {
            $entry = new ManualEntry($actor->companyId, $actor->userId, $this->clock->now());
            $entry->state = ManualState::Recurring;
            $entry->day = $input->day;
            $entry->text = $input->text;
            $entry->form = $input->form;
            $entry->amount = $input->amount();
            $entry->bypass = $input->bypass;
            $entry->reversesOn = $input->reversesOn;
            $entry->every = $fields->text('every');
            $entry->weeks = $weeks;
            $entry->untilOn = $until;
            $entry->nextOn = $entry->nth(0);
            $this->entities->persist($entry);
            $this->entities->flush();
            $this->history->note($actor, 'manual_entry', $entry->id(), 'comes again', $entry->text);

            return $entry->id();
        });
    }

    /** @throws Refused */
    public function stop(Actor $actor, int $id): void
    {
        $this->transaction->run(function () use ($actor, $id): void {
            $entry = $this->entities->find(ManualEntry::class, $id, LockMode::PESSIMISTIC_WRITE);
            if (
                null === $entry
                || $entry->companyId !== $actor->companyId
                || ManualState::Recurring !== $entry->state
            ) {
                throw Refused::because(
                    '',
                    'There is no such recurring entry, or it was stopped already.',
                    ProblemKind::Unknown,
                );
            }
            $entry->state = ManualState::Stopped;
            $entry->nextOn = null;
            $this->history->note($actor, 'manual_entry', $id, 'comes no more');
        });
    }

    /** @return int how many drafts were made of what is due through the day */
    public function prepare(Actor $actor, Day $today): int
    {
        $made = 0;
        foreach (
            $this->entities
                ->getConnection()
                ->fetchFirstColumn(
                    "SELECT id FROM manual_entry WHERE company_id = ? AND next_on <= ? AND state = 'recurring' ORDER BY next_on, id",
                    [$actor->companyId, $today->iso()],
                ) as $id
        ) {
            // one day a transaction: whoever is killed goes on where they stood
            while ($this->transaction->run(fn (): bool => $this->one($actor, (int) $id, $today))) {
                ++$made;
            }
        }

        return $made;
    }

    private function one(Actor $actor, int $id, Day $today): bool
    {
        $recurring = $this->entities->find(ManualEntry::class, $id, LockMode::PESSIMISTIC_WRITE);
        if (null === $recurring) {
            return false;
        }
        $this->entities->refresh($recurring, LockMode::PESSIMISTIC_WRITE);
        $day = $recurring->nextOn;
        if (ManualState::Recurring !== $recurring->state || null === $day || $day->isAfter($today)) {
            return false;
        }
        $draft = new ManualEntry($actor->companyId, $actor->userId, $this->clock->now());
        $draft->day = $draft->recurringOn = $day;
        $draft->text = $recurring->text;
        $draft->amount = $recurring->amount;
        $draft->bypass = $recurring->bypass;
        $draft->recurringId = $id;
        $draft->form = [
            ...$recurring->form,
            'day' => $day->long(),
            'reverses_on' => $this->takenBack($recurring, $day)?->long() ?? '',
        ];
        $this->entities->persist($draft);
        $recurring->wasMade();

        return true;
    }

    /** As it was the first time: on the first of the next month, or so many days later. */
    private function takenBack(ManualEntry $recurring, Day $day): ?Day
    {
        $first = $recurring->reversesOn;
        $next = $recurring->day->endOfMonth()->plusDays(1);

        return match (true) {
            null === $first => null,
            $first->equals($next) => $day->endOfMonth()->plusDays(1),
            default => $day->plusDays($recurring->day->daysUntil($first)),
        };
    }
}
