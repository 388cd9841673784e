<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\PostJournalEntry;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Entries by hand as they are kept: found and locked, what they wait for, written to the ledger. Call inside a transaction. */
final readonly class ManualEntryBook
{
    public function __construct(
        private EntityManagerInterface $entities,
        private PostJournalEntry $postEntry,
        private LedgerWriter $ledger,
        private Settings $settings,
        private BooksDay $booksDay,
        private ClockInterface $clock,
    ) {
    }

    /**
     * The draft that is gone on with, or a new one.
     *
     * @throws Refused
     */
    public function draft(Actor $actor, ?int $there, int $version): ManualEntry
    {
        if (null !== $there) {
            return $this->locked($actor, $there, $version, ManualState::Draft);
        }
        $entry = new ManualEntry($actor->companyId, $actor->userId, $this->clock->now());
        $entry->day = $this->booksDay->of($actor->companyId);
        $this->entities->persist($entry);

        return $entry;
    }

    /** @throws Refused when it is not there, is past that, or is not as the page showed it */
    public function locked(Actor $actor, int $id, int $version, ManualState ...$states): ManualEntry
    {
        $entry = $this->entities->find(ManualEntry::class, $id, LockMode::PESSIMISTIC_WRITE);
        if (null === $entry || $entry->companyId !== $actor->companyId) {
            throw Refused::because('', 'There is no such entry in this company.', ProblemKind::Unknown);
        }
        $this->entities->refresh($entry, LockMode::PESSIMISTIC_WRITE);
        if (!\in_array($entry->state, $states, true)) {
            throw Refused::because('', \sprintf('This entry is %s already.', $entry->state->value), ProblemKind::Taken);
        }
        if ($entry->version !== $version) {
            throw Refused::because('', 'Somebody changed it since you looked; load the page anew.', ProblemKind::Taken);
        }

        return $entry;
    }

    /** Its id, once it is in the database. */
    public function stored(ManualEntry $entry): int
    {
        $this->entities->flush();

        return $entry->id();
    }

    /** Whether an amount needs the approval of somebody else; exactly at the limit it does not. */
    public function isOverLimit(Actor $actor, int $amount): bool
    {
        return $amount >
            Money::parse($this->settings->of($actor->companyId)->values['journal_approval_above'], $actor->baseCurrency)
                ->minor;
    }

    /** Whether it lacks an approval, or the word of a controller. */
    public function waits(Actor $actor, ManualEntry $entry): bool
    {
        return ($entry->bypass && null === $entry->allowedById)
            || (null === $entry->approvedById && $this->isOverLimit($actor, $entry->amount));
    }

    /** @throws Refused */
    public function write(Actor $actor, ManualEntry $entry, JournalInput $input, ?string $lookAlikeReason): void
    {
        $posted = $this->postEntry->write(
            $actor,
            $input->draft,
            $input->day,
            $input->text,
            $input->bypass ? $entry->bypassWhy : null,
            $lookAlikeReason,
            $entry->allowedById,
        );
        if (null !== $input->reversesOn) {
            $this->ledger->write(
                $actor,
                new EntryOrder(
                    $input->draft->reversed(),
                    $input->reversesOn,
                    static fn (): string => $posted->number.' taken back: '.$input->text,
                    [],
                    reversesId: $posted->id(),
                    bypass: $input->bypass,
                ),
            );
        }
        $entry->state = ManualState::Posted;
        $entry->entryId = $posted->id();
    }

    public function posted(int $id): PostedManual
    {
        $row = $this->entities
            ->getConnection()
            ->fetchAssociative(
                'SELECT m.state, e.number FROM manual_entry m LEFT JOIN journal_entry e ON e.id = m.entry_id WHERE m.id = ?',
                [$id],
            );

        return new PostedManual(
            $id,
            ManualState::Waiting->value === ($row['state'] ?? ''),
            (string) ($row['number'] ?? ''),
        );
    }
}
