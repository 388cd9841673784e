<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Notes on documents and parties, and tasks for colleagues with a due date; the one it is for, or who wrote it, says when it is done. */
final readonly class WriteNote
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param string $for username of a colleague; '' for a note
     *
     * @throws Refused
     */
    public function write(
        Actor $actor,
        Side $side,
        int $documentId,
        string $text,
        string $for = '',
        ?Day $dueOn = null,
    ): void {
        $this->transaction->run(function () use ($actor, $side, $documentId, $text, $for, $dueOn): void {
            $document = $this->entities->find(Document::class, $documentId);
            if (null === $document || $document->companyId !== $actor->companyId || $document->side !== $side) {
                throw Refused::because('', 'There is no such document in this company.', ProblemKind::Unknown);
            }
            $this->keep($actor, $documentId, null, $text, $for, $dueOn);
        });
    }

    /**
     * @param string $for username of a colleague; '' for a note
     *
     * @throws Refused
     */
    public function writeOnParty(
        Actor $actor,
        Side $side,
        int $partyId,
        string $text,
        string $for = '',
        ?Day $dueOn = null,
    ): void {
        $this->transaction->run(function () use ($actor, $side, $partyId, $text, $for, $dueOn): void {
            $party = $this->entities->find(Party::class, $partyId);
            if (null === $party || $party->companyId !== $actor->companyId || $party->side !== $side) {
                throw Refused::because('', 'There is no such party in this company.', ProblemKind::Unknown);
            }
            $this->keep($actor, null, $partyId, $text, $for, $dueOn);
        });
    }

    /** @throws Refused */
    private function keep(Actor $actor, ?int $documentId, ?int $partyId, string $text, string $for, ?Day $dueOn): void
    {
        if ('' === trim($text) || mb_strlen($text) > 1000) {
            throw Refused::because(
                'text',
                '' === trim($text)
                    ? 'The note is empty; write what is to be known or done.'
                    : 'A note has at most 1,000 characters; shorten it.',
            );
        }
        $user =
            '' === $for
                ? null
                : $this->entities->getConnection()->fetchOne(
                    <<<'SQL'
                    SELECT u.id
                    FROM app_user u
                    JOIN membership m ON m.user_id = u.id
                    WHERE m.company_id = ? AND u.username = ?
                    LIMIT 1
                    SQL
                    ,
                    [$actor->companyId, $for],
                );
        if (false === $user) {
            throw Refused::because('for', 'This colleague does not work in this company; choose another.');
        }
        if (null === $user && null !== $dueOn) {
            throw Refused::because('for', 'A due date needs somebody to do it; choose a colleague.');
        }
        $this->entities->persist(
            new Note(
                $actor->companyId,
                $documentId,
                $partyId,
                trim($text),
                null === $user ? null : (int) $user,
                $dueOn,
                $actor->userId,
                $this->clock->now(),
            ),
        );
    }

    /** @throws Refused when it is not theirs or done already */
    public function done(Actor $actor, int $noteId): void
    {
        $this->transaction->run(function () use ($actor, $noteId): void {
            $note = $this->entities->find(Note::class, $noteId, LockMode::PESSIMISTIC_WRITE);
            if (null === $note || $note->companyId !== $actor->companyId || null === $note->forUserId) {
                throw Refused::because('', 'There is no such task in this company.', ProblemKind::Unknown);
            }
            if (null !== $note->doneAt) {
                throw Refused::because('', 'This task is done already.');
            }
            if (!\in_array($actor->userId, [$note->forUserId, $note->createdById], true)) {
                throw Refused::because('', 'Only the one it is for, or who wrote it, says that it is done.');
            }
            $note->doneAt = $this->clock->now();
            $note->doneById = $actor->userId;
        });
    }
}
