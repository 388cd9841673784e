<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

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
     * @param list<int> $ids of what is awaited, all that is left of each; of one invoice
     *
     * @return int the slip's id
     *
     * @throws Refused without a reason, for several invoices, before the invoice, or when it came meanwhile
     */
    public function clear(Actor $actor, array $ids, Day $day, string $reason, ?FormKey $form = null): int
    {
        return $this->transaction->once($actor, 'never came', $form, function () use (
            $actor,
            $ids,
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
            $lines = array_values($this->awaited->of($actor->companyId, $ids, true));
            $first = $lines[0] ?? throw Refused::because('lines', 'Pick what never comes.', ProblemKind::Missing);
            foreach ($lines as $line) {
                self::fits($line, $first, $day);
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
    private static function fits(AwaitedLine $line, AwaitedLine $first, Day $day): void
    {
        if ($line->documentId !== $first->documentId) {
            throw Refused::because('lines', 'Pick what one invoice waits for; each has a slip of its own.');
        }
        if (!$line->left->quantity->isPositive()) {
            throw Refused::because(
                'lines',
                \sprintf('“%s” came meanwhile; load the page anew.', $line->text),
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
