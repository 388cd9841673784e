<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Placement\Idea;
use Nelbix\Core\Placement\Spending;
use Nelbix\Core\Placement\Why;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/**
 * Puts into the form of a board what a key placed there: an idea, or all that fits on a row, on several one after the other.
 *
 * @phpstan-import-type Placed from Spending
 */
#[Exclude]
final readonly class BoardTaken
{
    /** Rows that Enter was pressed on before an answer came. */
    private const MOST_FITS = 500;

    private Currency $currency;

    /**
     * @param array<int, OpenItem> $items of the board, by id, of those on which something may be placed
     * @param int|null $amount of the money; null when it follows what is placed
     * @param Day|null $money the day of the money; null without money
     * @param list<array{id: int, amount: int}> $asked prepayments that were asked for and have not come
     */
    public function __construct(
        private array $items,
        string $currency,
        private ?int $amount,
        private ?Day $money,
        private array $asked = [],
    ) {
        $this->currency = Currency::of($currency);
    }

    /**
     * The form after an idea was taken, or after Enter on rows.
     *
     * @param array<mixed> $raw _fit: ids of the rows, in the order in which they were meant
     *
     * @return array<mixed>
     */
    public function in(array $raw, ?Idea $idea): array
    {
        if (null !== $idea) {
            $raw['placed'] = $raw['discount'] = $raw['rest'] = [];
            foreach ($idea->placed as $id => $p) {
                $raw['placed'][$id] = $this->typed($p['gross']);
                $raw['discount'][$id] = $this->typed($p['discount']);
            }
            if (Why::Asked === $idea->why) {
                $fits = array_filter($this->asked, fn (array $a): bool => $a['amount'] === $this->amount);
                $raw = ['kind' => 'prepayment', 'asked' => (string) (reset($fits)['id'] ?? '')] + $raw;
            }
        }
        foreach (explode(',', \is_string($raw['_fit'] ?? null) ? $raw['_fit'] : '', self::MOST_FITS) as $id) {
            $fit = $this->items[(int) $id] ?? null;
            $raw = null === $fit ? $raw : $this->fitted($raw, $fit);
        }

        return $raw;
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<mixed>
     */
    private function fitted(array $raw, OpenItem $fit): array
    {
        $before = $this->placed($raw);
        // what stands on the row itself is placed anew
        $others = array_diff_key($before, [$fit->id => true]);
        [$placed] = Spending::fitted(
            $this->left($others),
            $fit,
            array_values($this->items),
            $others,
            self::paidOn($this->money, $this->items, $raw),
        );
        foreach ($placed as $id => $of) {
            foreach (['placed' => 'gross', 'discount' => 'discount'] as $key => $what) {
                if ($of[$what] !== ($before[$id][$what] ?? 0)) {
                    $raw[$key] = \is_array($raw[$key] ?? null) ? $raw[$key] : [];
                    $raw[$key][$id] = $this->typed($of[$what]);
                }
            }
        }

        return $raw;
    }

    /**
     * The day on which the money moved, of several the latest: discounts hold as of then, however late it is placed. Null without money.
     *
     * @param array<int, OpenItem> $items
     * @param array<mixed> $raw
     */
    public static function paidOn(?Day $money, array $items, array $raw): ?Day
    {
        foreach ($items as $id => $item) {
            if ($item->open < 0 && null !== $item->moved && '' !== BoardPlacing::value($raw, 'placed', $id)) {
                $money = null === $money ? $item->moved : Day::latest($money, $item->moved);
            }
        }

        return $money;
    }

    /**
     * @param array<mixed> $raw
     *
     * @return Placed what stands on the rows; what cannot be read is named where it stands
     */
    private function placed(array $raw): array
    {
        $placed = [];
        foreach (array_keys($this->items) as $id) {
            $of = ['gross' => 0, 'discount' => 0];
            foreach (['placed' => 'gross', 'discount' => 'discount'] as $key => $what) {
                $typed = BoardPlacing::value($raw, $key, $id);
                try {
                    $of[$what] = '' === $typed ? 0 : abs(AmountInput::read($typed, $this->currency)->minor);
                } catch (Refused) {
                    continue;
                }
            }
            if (0 !== $of['gross']) {
                $placed[$id] = $of;
            }
        }

        return $placed;
    }

    /**
     * What money and credits hold beside what stands there.
     *
     * @param Placed $placed
     */
    private function left(array $placed): ?int
    {
        if (null === $this->amount) {
            return null;
        }
        $left = $this->amount;
        foreach ($placed as $id => $of) {
            $left -= ($this->items[$id]->open > 0 ? 1 : -1) * ($of['gross'] - $of['discount']);
        }

        return $left;
    }

    private function typed(int $minor): string
    {
        return 0 === $minor ? '' : Money::decimalOf($minor, $this->currency->digits);
    }
}
