<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentState;
use Nelbix\App\Goods\GoodsCame;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\Core\Matching\Over;
use Psr\Clock\ClockInterface;

/** An invoice that is held for goods that have not come is free when they come, and held again when they turn out not to have. */
final readonly class HoldForGoods implements GoodsCame
{
    public function __construct(
        private EntityManagerInterface $entities,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    public function came(Actor $actor, int $documentId): void
    {
        $document = $this->locked($documentId);
        $findings = $this->findings($documentId, null);
        $waiting = $this->waitingLines($documentId);
        $came = array_filter(
            $findings,
            static fn (MatchFinding $f): bool => Over::NotReceived === $f->reason
                && !\in_array((int) $f->linePosition, $waiting, true),
        );
        foreach ($came as $finding) {
            $finding->decided = MatchDecision::Came;
            $finding->decidedById = $actor->userId;
            $finding->decidedAt = $this->clock->now();
        }
        $this->history->note($actor, 'document', $documentId, 'goods came');
        if ([] !== $came && Document::MATCH === $document->heldFor) {
            $this->hold($document, array_values(array_udiff($findings, $came, self::byId(...))));
        }
        $this->entities->flush();
    }

    public function gone(Actor $actor, int $documentId): void
    {
        $document = $this->locked($documentId);
        $this->history->note($actor, 'document', $documentId, 'goods did not come after all');
        if (DocumentState::Posted !== $document->state) {
            return;
        }
        $waiting = $this->waitingLines($documentId);
        foreach ($this->findings($documentId, MatchDecision::Came) as $finding) {
            if (\in_array((int) $finding->linePosition, $waiting, true)) {
                [$finding->decided, $finding->decidedById, $finding->decidedAt] = [null, null, null];
            }
        }
        $this->entities->flush();
        $again = $this->findings($documentId, null);
        if ([] !== $again) {
            // who held it by hand is not forgotten
            $byHand = Document::MATCH === $document->heldFor ? null : $document->heldReason;
            $this->hold($document, $again);
            $document->heldReason = mb_strimwidth(
                implode('; ', array_filter([$byHand, $document->heldReason])),
                0,
                255,
                '…',
            );
        }
        $this->entities->flush();
    }

    private static function byId(MatchFinding $a, MatchFinding $b): int
    {
        return $a->id() <=> $b->id();
    }

    /** @param list<MatchFinding> $waiting what nobody decided on */
    private function hold(Document $document, array $waiting): void
    {
        $document->heldFor = [] === $waiting ? '' : Document::MATCH;
        $document->heldReason =
            [] === $waiting
                ? null
                : mb_strimwidth(
                    implode('; ', array_map(static fn (MatchFinding $f): string => $f->said, $waiting)),
                    0,
                    255,
                    '…',
                );
    }

    private function locked(int $documentId): Document
    {
        $document =
            $this->entities->find(Document::class, $documentId, LockMode::PESSIMISTIC_WRITE) ??
            throw new \LogicException('The invoice is gone.');
        $this->entities->refresh($document, LockMode::PESSIMISTIC_WRITE);

        return $document;
    }

    /** @return list<MatchFinding> */
    private function findings(int $documentId, ?MatchDecision $decided): array
    {
        return array_values(
            $this->entities
                ->getRepository(MatchFinding::class)
                ->findBy(['documentId' => $documentId, 'decided' => $decided], ['id' => 'ASC']),
        );
    }

    /** @return list<int> positions of the lines that still wait */
    private function waitingLines(int $documentId): array
    {
        return array_map(
            intval(...),
            $this->entities
                ->getConnection()
                ->fetchFirstColumn(
                    'SELECT line_position FROM goods_awaited WHERE document_id = ? AND open_quantity > 0',
                    [$documentId],
                ),
        );
    }
}
