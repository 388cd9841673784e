<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Nelbix\App\Books\LotGuard;
use Nelbix\App\Books\LotOf;
use Nelbix\App\People\MayDo;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Approval\Release;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Decides on an entry by hand that waits: approves it, gives a controller's word for a bypass, sends it back, or drops it. */
final readonly class DecideManualEntry
{
    public function __construct(
        private Transaction $transaction,
        private ManualEntryBook $book,
        private JournalReader $reader,
        private MayDo $mayDo,
        private SomebodyElse $somebodyElse,
        private History $history,
        private LotGuard $lots,
    ) {
    }

    /**
     * Gives what is missing and the actor may give. Once nothing is missing it is posted.
     *
     * @param int $version as the page showed it
     * @param string $why the controller's word for a bypass
     *
     * @throws Refused
     */
    public function accept(Actor $actor, int $id, int $version, string $why): PostedManual
    {
        $this->transaction->run(function () use ($actor, $id, $version, $why): void {
            $entry = $this->book->locked($actor, $id, $version, ManualState::Waiting);
            $allowed = $this->allow($actor, $entry, $why);
            if (!$this->approve($actor, $entry) && !$allowed) {
                throw Refused::because('', 'There is nothing here that you may decide.');
            }
            if (!$this->book->waits($actor, $entry)) {
                $this->book->write($actor, $entry, $this->reader->read($actor, $entry->form), null);
            }
        });

        return $this->book->posted($id);
    }

    /** @throws Refused */
    public function sendBack(Actor $actor, int $id, int $version, string $why): void
    {
        $this->transaction->run(function () use ($actor, $id, $version, $why): void {
            $entry = $this->book->locked($actor, $id, $version, ManualState::Waiting);
            if (!$this->mayDo->may($actor, Permission::Approve) && !$this->mayDo->may($actor, Permission::Control)) {
                throw Refused::because('', 'An approver or a controller sends it back.');
            }
            $this->lots->mustBeThrough(LotOf::Entries, [$id], 'This entry');
            if ('' === trim($why)) {
                throw Refused::because(
                    'why',
                    'Say why it is sent back; the history keeps your words.',
                    ProblemKind::Missing,
                );
            }
            $entry->state = ManualState::Draft;
            $entry->refusedWhy = mb_substr(trim($why), 0, 255);
            $entry->approvedById = $entry->allowedById = null;
            $this->history->note($actor, 'manual_entry', $id, 'sent back', $entry->refusedWhy);
        });
    }

    /** @throws Refused for one that waits, but its author or an approver */
    public function drop(Actor $actor, int $id, int $version): void
    {
        $this->transaction->run(function () use ($actor, $id, $version): void {
            $entry = $this->book->locked($actor, $id, $version, ManualState::Draft, ManualState::Waiting);
            $this->lots->mustBeThrough(LotOf::Entries, [$id], 'This entry');
            $approves = $this->mayDo->may($actor, Permission::Approve);
            if (
                ManualState::Waiting === $entry->state
                && !Release::mayDrop($actor->userId, $entry->createdById, $approves)
            ) {
                throw Refused::because('', 'An entry that waits is dropped by whoever wrote it, or by an approver.');
            }
            $entry->state = ManualState::Dropped;
            $this->history->note($actor, 'manual_entry', $id, 'dropped');
        });
    }

    /** @throws Refused */
    private function allow(Actor $actor, ManualEntry $entry, string $why): bool
    {
        if (!$entry->bypass || null !== $entry->allowedById || !$this->mayDo->may($actor, Permission::Control)) {
            return false;
        }
        if ('' === trim($why)) {
            throw Refused::because(
                'why',
                'Say why it may bypass the party ledger; the tie-out names it for ever.',
                ProblemKind::Missing,
            );
        }
        $entry->bypassWhy = mb_substr(trim($why), 0, 255);
        $entry->allowedById = $actor->userId;
        $this->history->note($actor, 'manual_entry', $entry->id(), 'bypass allowed', $entry->bypassWhy);

        return true;
    }

    /** @throws Refused for who had a hand in it, or has a lower limit */
    private function approve(Actor $actor, ManualEntry $entry): bool
    {
        if (
            null !== $entry->approvedById
            || !$this->book->isOverLimit($actor, $entry->amount)
            || !$this->mayDo->may($actor, Permission::Approve)
        ) {
            return false;
        }
        $this->somebodyElse->mustBe(
            $actor,
            'manual_entry',
            $entry->id(),
            $entry->createdById,
            'You had a hand in this entry; somebody else must approve it.',
        );
        $this->somebodyElse->within($actor, $entry->amount, 'The entry');
        $entry->approvedById = $actor->userId;
        $this->history->note($actor, 'manual_entry', $entry->id(), 'approved');

        return true;
    }
}
