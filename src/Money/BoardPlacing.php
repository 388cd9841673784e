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
 * Reads what was typed on the rows of the board: what is placed, which discount is taken; the shelf reads where the rest goes.
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

    /** @var array<int, int> what is let go, by item */
    public array $letGo = [];

    /** @var array<int, ItemRow> on which something is placed, by id */
    private array $read = [];

    /** @var array<int, int> by item */
    public array $withheld = [];

    private readonly Currency $currency;

    /**
     * @param array<mixed> $raw placed[item], discount[item], rest[item]
     * @param array<int, int> $offer discount that holds on the day, by item
     * @param array<int, Withholding> $rules by item
     */
    public function __construct(
        private readonly Side $side,
        private readonly BoardMode $mode,
        string $currency,
        private readonly Day $date,
        private readonly array $raw,
        private readonly array $offer,
        private readonly array $rules,
        private readonly BoardShelf $shelf,
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
        if ($rest > 0 && $row['open'] > 0) {
            $this->shelf->read($row, $rest);
        }
        $this->placed[$id] = $gross;
        $this->read[$id] = $row;
    }

    /** Once all rows are read: what they settle, with what is let go of them. */
    public function settle(): void
    {
        foreach ($this->read as $id => $row) {
            $letGo = $this->shelf->letGo[$id] ?? null;
            if (null !== $letGo) {
                $this->letGo[$id] = -$letGo->amount;
                $this->placed[$id] -= $letGo->amount;
                $this->adjustments[] = $letGo;
            }
            $sign = $this->mode->sign() * ($row['open'] < 0 ? -1 : 1);
            $this->placements[] = new PlacementRequest($id, $sign * $this->placed[$id]);
            $this->discount($row);
            $this->withhold($row, $this->placed[$id]);
        }
    }

    /** What the placements take of the money, in the sign of the board. */
    public function comesTo(): int
    {
        return $this->mode->sign() * array_sum(array_column($this->placements, 'applied')) +
            array_sum(array_column($this->adjustments, 'amount'));
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
                '%s is in %s; nothing is placed on it until it is out of there.',
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
                    $gross - ($this->letGo[$id] ?? 0),
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
