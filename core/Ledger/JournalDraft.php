<?php

declare(strict_types=1);

namespace Nelbix\Core\Ledger;

/** A journal entry before it is numbered and written. Balanced in base currency always. */
final readonly class JournalDraft
{
    /** @param list<DraftLine> $lines without lines of zero */
    private function __construct(public string $currency, public array $lines)
    {
    }

    /**
     * @param list<DraftLine> $lines lines of zero in both currencies are left out
     *
     * @throws UnbalancedEntry when the base amounts do not add up to zero
     */
    public static function of(string $currency, array $lines): self
    {
        $lines = array_values(
            array_filter($lines, static fn (DraftLine $l): bool => 0 !== $l->base || 0 !== $l->amount),
        );
        $sum = array_sum(array_map(static fn (DraftLine $l): int => $l->base, $lines));
        if (0 !== $sum) {
            throw new UnbalancedEntry($sum);
        }

        return new self($currency, $lines);
    }

    public function isEmpty(): bool
    {
        return [] === $this->lines;
    }

    /** The same lines with debit and credit exchanged. */
    public function reversed(): self
    {
        return new self(
            $this->currency,
            array_map(
                static fn (DraftLine $l): DraftLine => new DraftLine(
                    $l->account,
                    -$l->base,
                    -$l->amount,
                    $l->text,
                    $l->analysis,
                    $l->party,
                ),
                $this->lines,
            ),
        );
    }

    /** What is left when another entry is taken back: one line an account and party, in base currency where the two differ in theirs. */
    public function less(self $other): self
    {
        $sums = [];
        foreach ([...$this->lines, ...$other->reversed()->lines] as $l) {
            $key = $l->account.' '.$l->party;
            $sums[$key] = new DraftLine(
                $l->account,
                ($sums[$key]->base ?? 0) + $l->base,
                $this->currency === $other->currency ? ($sums[$key]->amount ?? 0) + $l->amount : 0,
                '',
                $l->analysis,
                $l->party,
            );
        }

        return self::of($this->currency, array_values($sums));
    }

    /** What the entry moves on an account, in ledger sign, base minor units. */
    public function movementOn(int $account): int
    {
        return array_sum(
            array_map(static fn (DraftLine $l): int => $l->account === $account ? $l->base : 0, $this->lines),
        );
    }
}
