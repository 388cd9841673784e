<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Placement\Idea;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** Puts into the form of a board what a key placed there: an idea, or all that fits on one row. */
#[Exclude]
final readonly class BoardTaken
{
    private Currency $currency;

    /**
     * @param array<int, OpenItem> $items of the board, by id
     * @param int|null $amount of the money; null when it follows what is placed
     */
    public function __construct(private array $items, string $currency, private ?int $amount, private Day $paid)
    {
        $this->currency = Currency::of($currency);
    }

    /**
     * The form after an idea was taken, or after Enter on a row, which places all that fits there with its part of the discount.
     *
     * @param array<mixed> $raw
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
        }
        $fit = $this->items[(int) (\is_string($raw['_fit'] ?? null) ? $raw['_fit'] : 0)] ?? null;
        if (null !== $fit && $fit->open < 0) {
            // a credit that one comes from is used, all of it; what it is placed on is said next
            $raw['placed'] = \is_array($raw['placed'] ?? null) ? $raw['placed'] : [];
            $raw['placed'][$fit->id] = $this->typed(-$fit->open);
        }

        return null !== $fit && $fit->open > 0 ? $this->fitted($raw, $fit) : $raw;
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<mixed>
     */
    private function fitted(array $raw, OpenItem $fit): array
    {
        $left = $this->left($raw, $fit);
        $part =
            $left <= 0
                ? ['settled' => 0, 'discount' => 0]
                : $fit->discount?->onPayment($fit->open, $left, $this->paid) ?? [
                    'settled' => min($left, $fit->open),
                    'discount' => 0,
                ];
        $values = ['placed' => $part['settled'], 'discount' => min($part['discount'], $fit->discountOn($this->paid))];
        foreach ($values as $key => $minor) {
            $raw[$key] = \is_array($raw[$key] ?? null) ? $raw[$key] : [];
            $raw[$key][$fit->id] = $this->typed($minor);
        }

        return $raw;
    }

    /**
     * What money and credits hold beside what stands on the other rows.
     *
     * @param array<mixed> $raw
     */
    private function left(array $raw, OpenItem $fit): int
    {
        $left = $this->amount ?? \PHP_INT_MAX;
        foreach ($this->items as $id => $item) {
            try {
                $read = fn (string $key): int => '' === BoardPlacing::value($raw, $key, $id)
                    ? 0
                    : abs(AmountInput::read(BoardPlacing::value($raw, $key, $id), $this->currency)->minor);
                $left -= $id === $fit->id ? 0 : ($item->open > 0 ? 1 : -1) * ($read('placed') - $read('discount'));
            } catch (Refused) {
                continue; // what cannot be read is named where it stands
            }
        }

        return $left;
    }

    private function typed(int $minor): string
    {
        return 0 === $minor ? '' : Money::decimalOf($minor, $this->currency->digits);
    }
}
