<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Approval;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentState;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Decides on an invoice that does not fit its order: it is accepted and can be paid, a credit is asked for, or it goes back to its clerk.
 * Whoever ordered decides, or somebody who approves; never the one who entered it.
 */
final readonly class DecideMatch
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private SomebodyElse $somebodyElse,
        private ClaimDifference $claim,
        private MatchQuery $query,
        private Settings $settings,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param bool $approves the person may approve for others who ordered
     * @param string|null $seen digest of what stood on the page that the person looked at; null when there was no page
     *
     * @return Document|null the claim that was made
     *
     * @throws Refused
     */
    public function decide(
        Actor $actor,
        int $documentId,
        MatchDecision $decision,
        string $reason,
        bool $approves,
        ?string $seen,
    ): ?Document {
        return $this->transaction->run(function () use (
            $actor,
            $documentId,
            $decision,
            $reason,
            $approves,
            $seen,
        ): ?Document {
            if (MatchDecision::Came === $decision) {
                throw Refused::because('decision', 'Goods are received by a delivery; decide on the invoice.');
            }
            $document = $this->held($actor, $documentId);
            $findings = $this->query->waiting($documentId);
            if (null !== $seen && MatchQuery::digest($findings) !== $seen) {
                throw Refused::because('', 'This was decided or changed meanwhile; load it anew.', ProblemKind::Taken);
            }
            $this->mayDecide($actor, $document, $findings, $approves);
            if (MatchDecision::Refused === $decision && '' === trim($reason)) {
                throw Refused::because(
                    'reason',
                    'Say why it is refused; whoever entered it reads it.',
                    ProblemKind::Missing,
                );
            }
            $claim = MatchDecision::Claimed === $decision ? $this->claim->make($actor, $document, $reason) : null;
            foreach ($findings as $finding) {
                $finding->decided = $decision;
                $finding->decidedById = $actor->userId;
                $finding->decidedAt = $this->clock->now();
            }
            $document->heldReason = null;
            $document->heldFor = '';
            if (MatchDecision::Refused === $decision) {
                $document->approval = Approval::Refused;
            }
            $this->entities->flush();
            $this->history->note(
                $actor,
                'document',
                $documentId,
                'match '.$decision->words(),
                mb_substr(trim($reason), 0, 255),
            );

            return $claim;
        });
    }

    /** @throws Refused when it is not held for its match */
    private function held(Actor $actor, int $documentId): Document
    {
        $document = $this->entities->find(Document::class, $documentId, LockMode::PESSIMISTIC_WRITE);
        if (null === $document || $document->companyId !== $actor->companyId) {
            throw Refused::because('', 'There is no such document in this company.', ProblemKind::Unknown);
        }
        $this->entities->refresh($document, LockMode::PESSIMISTIC_WRITE);
        if (Document::MATCH !== $document->heldFor || DocumentState::Posted !== $document->state) {
            throw Refused::because(
                '',
                \sprintf('%s waits for no decision on its match.', $document->number),
                ProblemKind::Taken,
            );
        }

        return $document;
    }

    /**
     * @param list<MatchFinding> $findings
     *
     * @throws Refused
     */
    private function mayDecide(Actor $actor, Document $document, array $findings, bool $approves): void
    {
        $this->somebodyElse->mustBe(
            $actor,
            'document',
            $document->id(),
            $document->createdById,
            'Somebody else must decide on this; you entered it.',
        );
        $ordered = array_filter($findings, static fn (MatchFinding $f): bool => $f->orderedById === $actor->userId);
        if (!$approves && (\count($ordered) !== \count($findings) || [] === $findings)) {
            throw Refused::because('', 'Whoever ordered decides on this, or somebody who approves.');
        }
        if (
            'yes' === $this->settings->of($actor->companyId)->values['match_apart']
            && $this->query->received($document->id(), $actor->userId)
        ) {
            throw Refused::because('', 'You received these goods; somebody else decides on their invoice.');
        }
        if ($approves) {
            $this->somebodyElse->within($actor, $document->totalBase, (string) $document->number);
        }
    }
}
