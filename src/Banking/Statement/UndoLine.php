<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\StandingSettlements;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Takes the place of a line back: what was joined is free again, what was posted from the line is reversed. */
final readonly class UndoLine
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private StandingSettlements $standing,
        private UndoSettlement $undoSettlement,
        private ReverseDocument $reverse,
        private LedgerWriter $ledger,
        private PeriodGate $periods,
        private JoinedEntries $joined,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param string $reason needed where something was posted from the line
     *
     * @return int how many records were reversed
     *
     * @throws Refused
     */
    public function undo(Actor $actor, int $lineId, string $reason): int
    {
        return $this->transaction->run(function () use ($actor, $lineId, $reason): int {
            $line = $this->entities->find(Line::class, $lineId, LockMode::PESSIMISTIC_WRITE);
            if (null === $line || $line->companyId !== $actor->companyId) {
                throw Refused::because('', 'There is no such line in this company.', ProblemKind::Unknown);
            }
            $this->entities->refresh($line, LockMode::PESSIMISTIC_WRITE);
            $parts = $this->entities
                ->getRepository(Part::class)
                ->findBy(['lineId' => $lineId, 'undoneAt' => null], ['id' => 'DESC']);
            if ([] === $parts) {
                throw Refused::because(
                    '',
                    \sprintf('The line of %s has no place; there is nothing to undo.', $line->day->long()),
                );
            }
            $own = array_filter($parts, static fn (Part $p): bool => $p->own);
            if ([] !== $own && '' === trim($reason)) {
                throw Refused::because(
                    'reason',
                    'Say why it is undone; the history keeps your words.',
                    ProblemKind::Missing,
                );
            }
            foreach ($parts as $part) {
                $part->undoneAt = $this->clock->now();
                $part->undoneById = $actor->userId;
                $line->waiting += $part->amount;
            }
            // what holds the entries is gone before they are reversed
            $this->entities->flush();
            foreach ($parts as $part) {
                $this->takeBack($actor, $line, $part, $reason);
            }
            $this->history->note($actor, 'statement_line', $lineId, 'undone', mb_substr(trim($reason), 0, 255));

            return \count($own);
        });
    }

    private function takeBack(Actor $actor, Line $line, Part $part, string $reason): void
    {
        if (!$part->own) {
            $this->joined->unclear((int) $part->documentId);

            return;
        }
        if (PartKind::Bounce === $part->kind) {
            throw Refused::because(
                '',
                'A receipt that bounced stays so; enter it anew when the money came after all, and place this line on that.',
            );
        }
        if (null === $part->documentId) {
            $this->ledger->reverseOf(
                $actor,
                Source::bankLine($part->id()),
                $this->periods->firstOpen($actor->companyId, $line->day, []),
                LineMoney::text($line).' undone',
            );

            return;
        }
        foreach ($this->standing->of($part->documentId) as $settlement) {
            $this->undoSettlement->undo($actor, (int) $settlement['id'], null, $reason);
        }
        $this->reverse->reverse($actor, $part->documentId, $reason);
    }
}
