<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Goods go back to their vendor: out of stock or expense again, and to come again on their order. What is not invoiced yet leaves
 * received-not-invoiced; what is invoiced is claimed, at what it was invoiced at, until the vendor's credit note takes the claim's place.
 */
final readonly class SendGoodsBack
{
    public function __construct(
        private Transaction $transaction,
        private SlipBook $book,
        private Slips $slips,
        private AccruedLines $accrued,
        private ReturnedGoods $returned,
        private ClaimsReturned $claims,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param array<int, BigDecimal|null> $quantities by delivery line; null is all that is not invoiced
     *
     * @return int the slip's id
     *
     * @throws Refused
     */
    public function send(Actor $actor, array $quantities, Day $day, string $reason, ?FormKey $form = null): int
    {
        return $this->transaction->once(
            $actor,
            'goods back',
            $form,
            fn (): int => $this->go($actor, $quantities, $day, $reason),
        );
    }

    /** @param array<int, BigDecimal|null> $quantities */
    private function go(Actor $actor, array $quantities, Day $day, string $reason): int
    {
        [$open, $invoiced] = [] === $quantities ? [[], []] : $this->parts($actor, $quantities, $day);
        $slip =
            [] === $open && [] !== $invoiced
                ? $this->onlyClaimed($actor, (int) array_key_first($quantities), $day, $reason)
                : $this->book->write(
                    $actor,
                    MoveKind::Returned,
                    $open,
                    $day,
                    $reason,
                    static fn (AccruedLine $l): int => $l->account,
                );
        foreach ($invoiced as $parts) {
            $claim = $this->claims->claim($actor, $parts, $day, trim($reason));
            $this->returned->keep($slip, $claim, $parts);
        }

        return $slip->id();
    }

    /**
     * @param non-empty-array<int, BigDecimal|null> $quantities
     *
     * @return array{array<int, BigDecimal|null>, array<int, non-empty-list<InvoicedPart>>} what is not invoiced, by line; and what is, by
     *                                                                                      invoice
     *
     * @throws Refused for more than is here, or before it was invoiced
     */
    private function parts(Actor $actor, array $quantities, Day $day): array
    {
        // those of another company, and what is taken back, SlipBook refuses
        $invoiced = $this->returned->invoiced(array_keys($quantities));
        $lines = $this->accrued->of($actor->companyId, array_keys($quantities));
        $open = $claims = $problems = [];
        foreach ($quantities as $id => $quantity) {
            $line = $lines[$id] ?? null;
            if (null === $line || null === $quantity || !$quantity->isGreaterThan($line->left->quantity)) {
                $open[$id] = $quantity;
                continue;
            }
            if ($line->left->quantity->isPositive()) {
                $open[$id] = null;
            }
            $rest = $quantity->minus($line->left->quantity);
            foreach ($invoiced[$id] ?? [] as $part) {
                $take = BigDecimal::min($rest, $part->quantity);
                if ($take->isPositive() && $day->isBefore($part->invoicedOn)) {
                    throw Refused::because(
                        'date',
                        \sprintf(
                            'It was invoiced on %s; goods that are claimed went back then or later.',
                            $part->invoicedOn->long(),
                        ),
                    );
                }
                if ($take->isPositive()) {
                    $claims[$part->invoice][] = $part->of($take);
                    $rest = $rest->minus($take);
                }
            }
            if ($rest->isPositive()) {
                $problems[] = new Problem(
                    "lines.$id.quantity",
                    \sprintf('Only %s are here to go back.', $quantity->minus($rest)->stripTrailingZeros()),
                    null,
                    ProblemKind::TooMuch,
                );
            }
        }
        if ([] !== $problems) {
            throw Refused::all($problems);
        }

        return [$open, $claims];
    }

    /** @throws Refused without a reason */
    private function onlyClaimed(Actor $actor, int $lineId, Day $day, string $reason): GoodsSlip
    {
        if ('' === trim($reason)) {
            throw Refused::because('reason', 'Say why; the history keeps your words.', ProblemKind::Missing);
        }
        $line = $this->accrued->of($actor->companyId, [$lineId])[$lineId];
        $slip = $this->slips->begin(
            new GoodsSlip(
                $actor->companyId,
                MoveKind::Returned,
                $line->partyId,
                $day,
                mb_substr(trim($reason), 0, 255),
                0,
                $actor->userId,
                $this->clock->now(),
            ),
        );
        $this->slips->post($actor, $slip, JournalDraft::of($line->currency, []));

        return $slip;
    }
}
