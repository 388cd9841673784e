<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Journal;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\PostJournalEntry;
use Nelbix\App\People\MayDo;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Keeps an entry by hand as a draft, or posts it. Above the company's limit somebody else approves it first; what bypasses a party ledger
 * has the word of a controller. Until both are there it waits, and changes nothing.
 */
final readonly class PostManualEntry
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private PostJournalEntry $postEntry,
        private LedgerWriter $ledger,
        private MayDo $mayDo,
        private SomebodyElse $somebodyElse,
        private Settings $settings,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param array<mixed> $raw the form, whole or not
     * @param int|null $there the draft that is changed; null for a new one
     *
     * @throws Refused when somebody changed it meanwhile
     */
    public function keep(Actor $actor, array $raw, ?int $there, int $version): int
    {
        return $this->transaction->run(function () use ($actor, $raw, $there, $version): int {
            $entry = $this->mine($actor, $there, $version);
            $entry->form = JournalReader::kept($raw);
            $entry->text = mb_substr(\is_string($raw['text'] ?? null) ? $raw['text'] : '', 0, 255);
            $this->entities->flush();

            return $entry->id();
        });
    }

    /**
     * @return array{id: int, waits: bool, number: string}
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
    ): array {
        $id = $this->transaction->once($actor, 'manual_entry', $form, function () use (
            $actor,
            $input,
            $there,
            $version,
            $lookAlikeReason,
        ): int {
            $entry = $this->mine($actor, $there, $version);
            $entry->form = $input->form;
            $entry->day = $input->day;
            $entry->text = $input->text;
            $entry->amount = $input->amount();
            $entry->reversesOn = $input->reversesOn;
            $entry->bypass = $input->bypass;
            $entry->refusedWhy = '';
            if ($input->bypass && $this->mayDo->may($actor, Permission::Control)) {
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
            $this->entities->flush();
            $this->somebodyElse->hadAHand($actor, 'manual_entry', $entry->id());
            if ($this->waitsFor($actor, $entry)) {
                $entry->state = ManualState::Waiting;
                $this->history->note($actor, 'manual_entry', $entry->id(), 'sent for approval', $entry->text);
            } else {
                $this->write($actor, $entry, $input, $lookAlikeReason);
            }
            $this->entities->flush();

            return $entry->id();
        });

        return $this->said($id);
    }

    /**
     * Approves it, and gives the controller's word where it needs one. Once nothing is missing it is posted.
     *
     * @param int $version as the page showed it
     * @param string $why the controller's word for a bypass
     *
     * @return array{id: int, waits: bool, number: string}
     *
     * @throws Refused
     */
    public function decide(Actor $actor, int $id, int $version, string $why, JournalReader $reader): array
    {
        $this->transaction->run(function () use ($actor, $id, $version, $why, $reader): void {
            $entry = $this->locked($actor, $id, $version, ManualState::Waiting);
            $did = false;
            if ($entry->bypass && null === $entry->allowedById && $this->mayDo->may($actor, Permission::Control)) {
                if ('' === trim($why)) {
                    throw Refused::because(
                        'why',
                        'Say why it may bypass the party ledger; the tie-out names it for ever.',
                        ProblemKind::Missing,
                    );
                }
                $entry->bypassWhy = mb_substr(trim($why), 0, 255);
                $entry->allowedById = $actor->userId;
                $this->history->note($actor, 'manual_entry', $id, 'bypass allowed', $entry->bypassWhy);
                $did = true;
            }
            if (
                $this->isOverLimit($actor, $entry)
                && null === $entry->approvedById
                && $this->mayDo->may($actor, Permission::Approve)
            ) {
                $this->somebodyElse->mustBe(
                    $actor,
                    'manual_entry',
                    $id,
                    $entry->createdById,
                    'You had a hand in this entry; somebody else must approve it.',
                );
                $this->somebodyElse->within($actor, $entry->amount, 'The entry');
                $entry->approvedById = $actor->userId;
                $this->history->note($actor, 'manual_entry', $id, 'approved');
                $did = true;
            }
            if (!$did) {
                throw Refused::because('', 'There is nothing here that you may decide.');
            }
            if (!$this->waitsFor($actor, $entry)) {
                $this->write($actor, $entry, $reader->read($actor, $entry->form), null);
            }
            $this->entities->flush();
        });

        return $this->said($id);
    }

    /** @throws Refused */
    public function sendBack(Actor $actor, int $id, int $version, string $why): void
    {
        $this->transaction->run(function () use ($actor, $id, $version, $why): void {
            $entry = $this->locked($actor, $id, $version, ManualState::Waiting);
            if (!$this->mayDo->may($actor, Permission::Approve) && !$this->mayDo->may($actor, Permission::Control)) {
                throw Refused::because('', 'An approver or a controller sends it back.');
            }
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

    /** @throws Refused */
    public function drop(Actor $actor, int $id, int $version): void
    {
        $this->transaction->run(function () use ($actor, $id, $version): void {
            $entry = $this->locked($actor, $id, $version, ManualState::Draft, ManualState::Waiting);
            $entry->state = ManualState::Dropped;
            $this->history->note($actor, 'manual_entry', $id, 'dropped');
        });
    }

    private function waitsFor(Actor $actor, ManualEntry $entry): bool
    {
        return ($entry->bypass && null === $entry->allowedById)
            || (null === $entry->approvedById && $this->isOverLimit($actor, $entry));
    }

    public function isOverLimit(Actor $actor, ManualEntry $entry): bool
    {
        return $entry->amount >
            Money::parse($this->settings->of($actor->companyId)->values['journal_approval_above'], $actor->baseCurrency)
                ->minor;
    }

    private function write(Actor $actor, ManualEntry $entry, JournalInput $input, ?string $lookAlikeReason): void
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

    /** @throws Refused */
    private function mine(Actor $actor, ?int $there, int $version): ManualEntry
    {
        if (null !== $there) {
            return $this->locked($actor, $there, $version, ManualState::Draft);
        }
        $entry = new ManualEntry($actor->companyId, $actor->userId, $this->clock->now());
        $entry->day = \Nelbix\Core\Calendar\Day::fromDateTime($this->clock->now());
        $this->entities->persist($entry);

        return $entry;
    }

    /** @throws Refused when it is not there, is past that, or is not as the page showed it */
    private function locked(Actor $actor, int $id, int $version, ManualState ...$states): ManualEntry
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

    /** @return array{id: int, waits: bool, number: string} */
    private function said(int $id): array
    {
        $row = $this->entities
            ->getConnection()
            ->fetchAssociative(
                'SELECT m.state, e.number FROM manual_entry m LEFT JOIN journal_entry e ON e.id = m.entry_id WHERE m.id = ?',
                [$id],
            );

        return [
            'id' => $id,
            'waits' => ManualState::Waiting->value === ($row['state'] ?? ''),
            'number' => (string) ($row['number'] ?? ''),
        ];
    }
}
