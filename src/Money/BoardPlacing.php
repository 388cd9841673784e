<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\OpenItemsQuery;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Settlement\AdjustmentKind;
use Nelbix\Core\Tax\Withholding;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/**
 * Reads what was typed on the rows of the board: what is placed, which discount is taken, which small difference left.
 *
 * @phpstan-import-type ItemRow from OpenItemsQuery
 */
#[Exclude]
final class BoardPlacing
{
    /** @var list<PlacementRequest> */
    public array $placements = [];

    /** @var list<AdjustmentRequest> */
    public array $adjustments = [];

    /** @var array<int, int> gross, by item */
    public array $placed = [];

    /** @var array<int, int> discount taken, by item */
    public array $taken = [];

    /** @var array<int, int> small difference, by item */
    public array $small = [];

    /** @var array<int, int> by item */
    public array $withheld = [];

    private readonly Currency $currency;

    /**
     * @param array<mixed> $raw placed[item], discount[item], rest[item]
     * @param array<int, int> $offer discount that holds on the day, by item
     * @param array<int, int> $limits most that can be a small difference, by item
     * @param array<int, Withholding> $rules by item
     */
    public function __construct(
        private readonly Side $side,
        private readonly BoardMode $mode,
        string $currency,
        private readonly Day $date,
        private readonly array $raw,
        private readonly array $offer,
        private readonly array $limits,
        private readonly array $rules,
        private readonly ProblemList $problems,
    ) {
        $this->currency = Currency::of($currency);
    }

    /** @param ItemRow $row */
    public function read(array $row): void
    {
        $id = $row['id'];
        $typed = self::value($this->raw, 'placed', $id);
        $refusal = '' === $typed ? null : $this->refusal($row);
        if (null !== $refusal) {
            $this->problems->add('placed.'.$id, $refusal);

            return;
        }
        $gross = '' === $typed ? 0 : abs($this->amount('placed', $id));
        if (0 === $gross) {
            return;
        }
        $rest = abs($row['open']) - $gross;
        if ($rest < 0) {
            $this->problems->add(
                'placed.'.$id,
                \sprintf('%s has %s open; place no more than that.', $row['number'], $this->words(abs($row['open']))),
            );

            return;
        }
        if ($rest > 0 && $row['open'] > 0 && 'small' === self::value($this->raw, 'rest', $id)) {
            $gross += $this->smallDifference($row, $rest);
        }
        $this->placed[$id] = $gross;
        $sign = $this->mode->sign() * ($row['open'] < 0 ? -1 : 1);
        $this->placements[] = new PlacementRequest($id, $sign * $gross);
        $this->discount($row);
        $this->withhold($row, $gross);
    }

    /**
     * What was typed in a cell of the board.
     *
     * @param array<mixed> $raw
     */
    public static function value(array $raw, string $key, int $item): string
    {
        $cells = $raw[$key] ?? null;
        $value = \is_array($cells) ? $cells[$item] ?? '' : '';

        return \is_string($value) ? trim($value) : '';
    }

    /** @param ItemRow $row */
    private function refusal(array $row): ?string
    {
        $kept = self::kept($this->side, $row);

        return match (true) {
            null === $kept => null,
            null !== $row['reserved_by'] => \sprintf(
                '%s is reserved by payment proposal %s; drop it there first.',
                $row['number'],
                $row['reserved_by'],
            ),
            default => \sprintf('%s %s; nothing is placed on it until that is settled.', $row['number'], $kept),
        };
    }

    /**
     * Why nothing may be placed on a row, in few words; null when something may.
     *
     * @param ItemRow $row
     */
    public static function kept(Side $side, array $row): ?string
    {
        $owed = Side::Payables === $side && $row['open'] > 0;

        return match (true) {
            null !== $row['reserved_by'] => 'in '.$row['reserved_by'],
            $owed && $row['held'] => 'is held',
            $owed && 'awaiting' === $row['approval'] => 'awaits approval',
            $owed && 'refused' === $row['approval'] => 'was refused approval',
            default => null,
        };
    }

    /**
     * @param ItemRow $row
     *
     * @return int what is written off
     */
    private function smallDifference(array $row, int $rest): int
    {
        $id = $row['id'];
        if ($rest > $this->limits[$id]) {
            $this->problems->add(
                'rest.'.$id,
                \sprintf(
                    'A small difference on %s is at most %s, it is short of %s; leave that owed.',
                    $row['number'],
                    $this->words($this->limits[$id]),
                    $this->words($rest),
                ),
            );

            return 0;
        }
        $this->small[$id] = $rest;
        $this->adjustments[] = new AdjustmentRequest($id, AdjustmentKind::WriteOff, -$rest);

        return $rest;
    }

    /** @param ItemRow $row */
    private function discount(array $row): void
    {
        $id = $row['id'];
        $discount = '' === self::value($this->raw, 'discount', $id) ? 0 : $this->amount('discount', $id);
        if ($discount < 0 || $discount > $this->offer[$id]) {
            $this->problems->add(
                'discount.'.$id,
                0 === $this->offer[$id]
                    ? \sprintf('No discount holds for %s on %s.', $row['number'], $this->date->long())
                    : \sprintf(
                        'The discount on %s is at most %s on %s.',
                        $row['number'],
                        $this->words($this->offer[$id]),
                        $this->date->long(),
                    ),
            );
        } elseif ($discount > 0) {
            $this->taken[$id] = $discount;
            $this->adjustments[] = new AdjustmentRequest($id, AdjustmentKind::Discount, -$discount);
        }
    }

    /** @param ItemRow $row */
    private function withhold(array $row, int $gross): void
    {
        $id = $row['id'];
        $this->withheld[$id] =
            isset($this->rules[$id]) && $row['open'] > 0
                ? $this->rules[$id]->on(
                    $gross - ($this->small[$id] ?? 0),
                    $this->taken[$id] ?? 0,
                    $gross === $row['open'],
                )
                : 0;
        if (0 !== $this->withheld[$id]) {
            $this->adjustments[] = new AdjustmentRequest($id, AdjustmentKind::Withholding, -$this->withheld[$id]);
        }
    }

    private function amount(string $key, int $id): int
    {
        return $this->problems->attempt(
            fn (): int => AmountInput::read(self::value($this->raw, $key, $id), $this->currency, "$key.$id")->minor,
        ) ?? 0;
    }

    private function words(int $minor): string
    {
        return Money::of($minor, $this->currency)->decimal();
    }
}
