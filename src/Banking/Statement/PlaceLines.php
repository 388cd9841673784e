<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Refused;

/** Posts the lines that were picked, each by itself: what one of them is refused for holds none of the others up. */
final readonly class PlaceLines
{
    public function __construct(private Transaction $transaction, private PlaceLine $placeLine)
    {
    }

    /**
     * @param list<array{id: int, choice: Choice, why: string}> $picked
     *
     * @return array{placed: int, refused: array<int, string>}|null by line; null when the same page was sent before
     *
     * @throws Refused when it was sent before with something else in it
     */
    public function place(Actor $actor, array $picked, ?FormKey $form): ?array
    {
        if (null !== $this->transaction->made($actor, 'statement', $form)) {
            return null;
        }
        $placed = 0;
        $refused = [];
        foreach ($picked as ['id' => $id, 'choice' => $choice, 'why' => $why]) {
            try {
                $this->placeLine->place($actor, $id, $choice, $why);
                ++$placed;
            } catch (Refused $e) {
                $refused[$id] = $e->getMessage();
            }
        }
        if ($placed > 0) {
            $this->transaction->once($actor, 'statement', $form, static fn (): int => $placed);
        }

        return ['placed' => $placed, 'refused' => $refused];
    }
}
