<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\People\Releases;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * The few things that may change on a posted document, none of which touches the books: due date, reference, hold, release, approve,
 * refuse.
 */
final readonly class ChangePosted
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private History $history,
        private SomebodyElse $somebodyElse,
        private Rates $rates,
        private Releases $releases,
    ) {
    }

    /** @throws Refused without a reason, or when it is held already */
    public function hold(Actor $actor, int $id, string $reason): void
    {
        $this->transaction->run(function () use ($actor, $id, $reason): void {
            $document = $this->posted($actor, $id);
            if ('' === trim($reason)) {
                throw Refused::because('reason', 'Say why it is held.');
            }
            if (null !== $document->heldReason) {
                throw Refused::because('', \sprintf('%s is held already.', $document->number));
            }
            $document->heldReason = mb_substr(trim($reason), 0, 255);
            $document->heldById = $actor->userId;
            $this->history->note($actor, 'document', $id, 'held', $document->heldReason);
        });
    }

    /** @throws Refused for a person who neither holds it nor approves */
    public function release(Actor $actor, int $id): void
    {
        $this->transaction->run(function () use ($actor, $id): void {
            $document = $this->posted($actor, $id);
            if (null === $document->heldReason) {
                throw Refused::because('', \sprintf('%s is not held.', $document->number));
            }
            if (Document::MATCH === $document->heldFor) {
                throw Refused::because(
                    '',
                    \sprintf(
                        '%s does not fit its order; whoever ordered accepts it on the page of the document.',
                        $document->number,
                    ),
                );
            }
            $this->releases->release($actor, Releases::DOCUMENT, $id, $document->heldById, (string) $document->number);
            $document->heldReason = $document->heldById = null;
            $this->history->note($actor, 'document', $id, 'released');
        });
    }

    /**
     * @param Day|null $dueDate new due date of what is still open; null leaves it
     *
     * @throws Refused for a document in parts, or before the document's own date
     */
    public function amend(Actor $actor, int $id, ?Day $dueDate, string $reference): void
    {
        $this->transaction->run(function () use ($actor, $id, $dueDate, $reference): void {
            $document = $this->posted($actor, $id);
            $before = ['due_date' => $document->dueDate?->long() ?? '', 'reference' => $document->reference];
            if (mb_strlen($reference) > 120) {
                throw Refused::because('reference', 'A reference has at most 120 characters; shorten it.');
            }
            if (null !== $dueDate && !$dueDate->equals($document->dueDate ?? $dueDate)) {
                if (null !== $document->documentDate && $dueDate->isBefore($document->documentDate)) {
                    throw Refused::because(
                        'due_date',
                        \sprintf('It is dated %s; it cannot be due before.', $document->documentDate->long()),
                    );
                }
                if (
                    1 !==
                    (int) $this->entities
                        ->getConnection()
                        ->fetchOne('SELECT COUNT(*) FROM open_item WHERE document_id = ?', [$id])
                ) {
                    throw Refused::because(
                        'due_date',
                        'It falls due in parts, each on its own day; put it right with other terms instead.',
                    );
                }
                $document->dueDate = $dueDate;
                $this->entities
                    ->getConnection()
                    ->executeStatement('UPDATE open_item SET due_date = ? WHERE document_id = ?', [
                        $dueDate->iso(),
                        $id,
                    ]);
            }
            $document->reference = $reference;
            $this->history->change($actor, 'document', $id, $before, [
                'due_date' => $document->dueDate?->long() ?? '',
                'reference' => $reference,
            ]);
        });
    }

    /**
     * A vendor invoice above the limit becomes payable by somebody else’s word; a refused one goes back to its clerk.
     *
     * @param string|null $seen digest of the document on the page that the person looked at; null when there was no page
     *
     * @throws Refused also when it is another one by now
     */
    public function decide(Actor $actor, int $id, bool $approve, string $reason = '', ?string $seen = null): void
    {
        $this->transaction->run(function () use ($actor, $id, $approve, $reason, $seen): void {
            $document = $this->posted($actor, $id);
            if (null !== $seen && self::digest($document) !== $seen) {
                throw Refused::because(
                    '',
                    \sprintf(
                        '%s was changed since this page was loaded; look at it as it stands now.',
                        $document->number,
                    ),
                    ProblemKind::Taken,
                );
            }
            if (Approval::Awaiting !== $document->approval) {
                throw Refused::because('', \sprintf('%s awaits no approval.', $document->number));
            }
            $this->somebodyElse->mustBe(
                $actor,
                'document',
                $id,
                $document->createdById,
                'Somebody else must decide on this; you entered it.',
            );
            if ($approve) {
                $worth = $this->rates->worth(
                    $actor->companyId,
                    $document->currency,
                    $actor->baseCurrency,
                    $document->postingDate ?? throw new \LogicException('A posted document has a day.'),
                    $document->total,
                    $document->totalBase,
                );
                $this->somebodyElse->within($actor, $worth, (string) $document->number);
            }
            if (!$approve && '' === trim($reason)) {
                throw Refused::because('reason', 'Say why it goes back.');
            }
            $document->approval = $approve ? Approval::Approved : Approval::Refused;
            $this->history->note($actor, 'document', $id, $approve ? 'approved' : 'refused', $reason);
        });
    }

    /** What a person looks at who approves: all of it that may still change. */
    public static function digest(Document $document): string
    {
        return hash(
            'sha256',
            json_encode(
                [
                    $document->id(),
                    $document->total,
                    $document->dueDate?->iso(),
                    $document->reference,
                    $document->heldReason,
                    $document->approval->value,
                ],
                \JSON_THROW_ON_ERROR,
            ),
        );
    }

    private function posted(Actor $actor, int $id): Document
    {
        $document = $this->entities->find(Document::class, $id, LockMode::PESSIMISTIC_WRITE);

        return null !== $document
            && $document->companyId === $actor->companyId
            && DocumentState::Posted === $document->state
            ? $document
            : throw Refused::because('', 'There is no such posted document in this company.', ProblemKind::Unknown);
    }
}
