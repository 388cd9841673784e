<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Analysis;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Matching\Accrued;
use Nelbix\Core\Matching\MoreThanThere;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Takes goods out of received-not-invoiced that no invoice will take: sent back, or cleared. The slip, what it takes and its entry, or
 * nothing. Call inside a transaction.
 */
final readonly class SlipBook
{
    public function __construct(
        private AccruedLines $accrued,
        private GoodsBook $goods,
        private PeriodGate $periods,
        private ClockInterface $clock,
        private Slips $slips,
    ) {
    }

    /**
     * @param array<int, BigDecimal|null> $quantities by delivery line; null is all that is left of it
     * @param \Closure(AccruedLine): int $against account that the entry credits for a line
     *
     * @throws Refused without a reason, for more than is left, or goods of several vendors or currencies
     */
    public function write(
        Actor $actor,
        MoveKind $kind,
        array $quantities,
        Day $day,
        string $reason,
        \Closure $against,
    ): GoodsSlip {
        if ('' === trim($reason)) {
            throw Refused::because('reason', 'Say why; the history keeps your words.', ProblemKind::Missing);
        }
        if ([] === $quantities) {
            throw Refused::because('lines', 'Say of which line how much.', ProblemKind::Missing);
        }
        $this->periods->mustBeOpen($actor->companyId, $day, [], 'date');
        $lines = $this->accrued->of($actor->companyId, array_keys($quantities));
        $parts = $this->parts($lines, $quantities);
        $first = $lines[array_key_first($parts)];
        foreach ($lines as $line) {
            if (
                $line->partyId !== $first->partyId
                || $line->currency !== $first->currency
                || $line->control !== $first->control
            ) {
                throw Refused::because('lines', 'Goods of one vendor in one currency go on one slip.');
            }
        }
        $slip = $this->slips->begin(
            new GoodsSlip(
                $actor->companyId,
                $kind,
                $first->partyId,
                $day,
                mb_substr(trim($reason), 0, 255),
                array_sum(array_map(static fn (Accrued $p): int => $p->base, $parts)),
                $actor->userId,
                $this->clock->now(),
            ),
        );
        $taken = [];
        foreach ($parts as $id => $part) {
            $taken[] = new Taken($id, $part);
        }
        $this->goods->take($actor, $kind, $taken, $day, null, $slip->id());
        $this->slips->post($actor, $slip, self::entry($lines, $parts, $against));

        return $slip;
    }

    /**
     * @param array<int, AccruedLine> $lines
     * @param array<int, BigDecimal|null> $quantities
     *
     * @return non-empty-array<int, Accrued>
     */
    private function parts(array $lines, array $quantities): array
    {
        $parts = $problems = [];
        foreach ($quantities as $id => $quantity) {
            $line = $lines[$id] ?? null;
            try {
                $parts[$id] = match (true) {
                    null === $line || $line->reversed || !$line->left->quantity->isPositive() => throw Refused::because(
                        "lines.$id.quantity",
                        'Nothing is left of this line; load the page anew.',
                        ProblemKind::Taken,
                    ),
                    default => $line->left->take(
                        $quantity ?? $line->left->quantity,
                        $line->price,
                        Currency::of($line->currency),
                    ),
                };
            } catch (Refused $e) {
                array_push($problems, ...$e->problems);
            } catch (MoreThanThere $e) {
                $problems[] = new Problem(
                    "lines.$id.quantity",
                    \sprintf('Only %s are received and not invoiced.', $e->there->stripTrailingZeros()),
                );
            }
        }
        if ([] !== $problems || [] === $parts) {
            throw Refused::all([] === $problems ? [new Problem('lines', 'Say of which line how much.')] : $problems);
        }

        return $parts;
    }

    /**
     * @param array<int, AccruedLine> $lines
     * @param non-empty-array<int, Accrued> $parts
     * @param \Closure(AccruedLine): int $against
     */
    private static function entry(array $lines, array $parts, \Closure $against): JournalDraft
    {
        $draft = [];
        $first = $lines[array_key_first($parts)];
        $base = $amount = 0;
        foreach ($parts as $id => $part) {
            $line = $lines[$id];
            $draft[] = new DraftLine($against($line), -$part->base, -$part->amount, $line->text, $line->analysis);
            $base += $part->base;
            $amount += $part->amount;
        }
        array_unshift($draft, new DraftLine($first->control, $base, $amount, '', new Analysis(), $first->partyId));

        return JournalDraft::of($first->currency, $draft);
    }
}
