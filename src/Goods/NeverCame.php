<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Analysis;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Clears what an invoice waits for and what never comes, to where its price variance would go. */
final readonly class NeverCame
{
    public function __construct(
        private Transaction $transaction,
        private AwaitedLines $awaited,
        private AwaitedBook $book,
        private Slips $slips,
        private PeriodGate $periods,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param array<int, BigDecimal|null> $seen what is left of each of what is awaited, of one invoice, as the person saw it; null when
     *                                          there was no page
     *
     * @return int the slip's id
     *
     * @throws Refused without a reason, for several invoices, before the invoice, or when it came meanwhile
     */
    public function clear(Actor $actor, array $seen, Day $day, string $reason, ?FormKey $form = null): int
    {
        return $this->transaction->once($actor, 'never came', $form, function () use (
            $actor,
            $seen,
            $day,
            $reason,
        ): int {
            if ('' === trim($reason)) {
                throw Refused::because(
                    'reason',
                    'Say why it never comes; the history keeps your words.',
                    ProblemKind::Missing,
                );
            }
            $lines = array_values($this->awaited->of($actor->companyId, array_keys($seen), true));
            $first = $lines[0] ?? throw Refused::because('lines', 'Pick what never comes.', ProblemKind::Missing);
            foreach ($lines as $line) {
                self::fits($line, $first, $seen[$line->id], $day);
            }
            $this->periods->mustBeOpen($actor->companyId, $day, [], 'date');
            $slip = $this->slips->begin(
                new GoodsSlip(
                    $actor->companyId,
                    MoveKind::NeverCame,
                    $first->partyId,
                    $day,
                    mb_substr(trim($reason), 0, 255),
                    array_sum(array_map(static fn (AwaitedLine $l): int => $l->left->base, $lines)),
                    $actor->userId,
                    $this->clock->now(),
                    null,
                    $first->documentId,
                ),
            );
            $this->book->arrive(
                array_map(static fn (AwaitedLine $l): array => [$l, $l->left, null], $lines),
                $slip->id(),
                $day,
            );
            $this->slips->post($actor, $slip, self::entry($lines, $first));

            return $slip->id();
        });
    }

    /** @throws Refused */
    private static function fits(AwaitedLine $line, AwaitedLine $first, ?BigDecimal $seen, Day $day): void
    {
        if ($line->documentId !== $first->documentId) {
            throw Refused::because('lines', 'Pick what one invoice waits for; each has a slip of its own.');
        }
        if (!$line->left->quantity->isPositive() || false === $seen?->isEqualTo($line->left->quantity)) {
            throw Refused::because(
                'lines',
                \sprintf(
                    'Of “%s” %s are waited for now, which is not what this page shows; load it anew, as of today.',
                    $line->text,
                    $line->left->quantity->stripTrailingZeros(),
                ),
                ProblemKind::Taken,
            );
        }
        if ($day->isBefore($line->notBefore)) {
            throw Refused::because(
                'date',
                \sprintf('%s is of %s; this cannot be dated before.', $line->document, $line->notBefore->long()),
            );
        }
    }

    /** @param non-empty-list<AwaitedLine> $lines */
    private static function entry(array $lines, AwaitedLine $first): JournalDraft
    {
        $draft = [];
        foreach ($lines as $l) {
            $draft[] = new DraftLine($l->variance, $l->left->base, $l->left->amount, $l->text);
            $draft[] = new DraftLine(
                $l->control,
                -$l->left->base,
                -$l->left->amount,
                $l->text,
                new Analysis(),
                $first->partyId,
            );
        }

        return JournalDraft::of($first->currency, $draft);
    }
}
