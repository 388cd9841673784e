<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Nelbix\App\People\MayDo;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * Posts an entry by hand. Above the company's limit somebody else approves it first; what bypasses a party ledger has the word of a
 * controller. Until both are there it waits, and changes nothing. Screens and files come here alike.
 */
final readonly class PostManualEntry
{
    public function __construct(
        private Transaction $transaction,
        private ManualEntryBook $book,
        private MayDo $mayDo,
        private SomebodyElse $somebodyElse,
        private History $history,
    ) {
    }

    /**
     * @param int|null $there the draft that is posted; null for one that was not kept
     * @param string|null $lookAlikeReason why it is not the one it looks like; null when nobody can be asked
     * @param bool $approved whoever runs the machine took it in: it waits for nobody
     *
     * @throws Refused
     */
    public function post(
        Actor $actor,
        JournalInput $input,
        ?int $there = null,
        int $version = 0,
        ?FormKey $form = null,
        ?string $lookAlikeReason = null,
        bool $approved = false,
    ): PostedManual {
        $id = $this->transaction->once($actor, 'manual_entry', $form, function () use (
            $actor,
            $input,
            $there,
            $version,
            $lookAlikeReason,
            $approved,
        ): int {
            $entry = $this->book->draft($actor, $there, $version);
            $entry->form = $input->form;
            $entry->day = $input->day;
            $entry->text = $input->text;
            $entry->amount = $input->amount();
            $entry->reversesOn = $input->reversesOn;
            $entry->bypass = $input->bypass;
            $entry->refusedWhy = '';
            $this->allow($actor, $entry, $input);
            $id = $this->book->stored($entry);
            $this->somebodyElse->hadAHand($actor, 'manual_entry', $id);
            if (!$approved && $this->book->waits($actor, $entry)) {
                $entry->state = ManualState::Waiting;
                $this->history->note($actor, 'manual_entry', $id, 'sent for approval', $entry->text);
            } else {
                $this->book->write($actor, $entry, $input, $lookAlikeReason);
            }

            return $this->book->stored($entry);
        });

        return $this->book->posted($id);
    }

    /** @throws Refused without the words of a controller who enters a bypass */
    private function allow(Actor $actor, ManualEntry $entry, JournalInput $input): void
    {
        if (!$input->bypass || !$this->mayDo->may($actor, Permission::Control)) {
            return;
        }
        if ('' === $input->bypassWhy) {
            throw Refused::because(
                'bypass_why',
                'Say why it bypasses the party ledger; the tie-out names it for ever.',
                ProblemKind::Missing,
            );
        }
        $entry->bypassWhy = $input->bypassWhy;
        $entry->allowedById = $actor->userId;
    }
}
