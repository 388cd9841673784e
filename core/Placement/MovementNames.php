<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

/** Movements by what they are called: their number, the payer's reference, the number of the check or of the other side's document. */
final class MovementNames
{
    /** @var array<string, list<Movement>> by the last digits of each name, by which a text is searched */
    private array $byDigits = [];

    /** @param list<Movement> $movements */
    public function __construct(array $movements)
    {
        foreach ($movements as $m) {
            $keys = [];
            foreach ([$m->number, ...$m->names] as $name) {
                array_push($keys, ...OpenItemFinder::keys($name));
            }
            foreach (array_unique($keys) as $key) {
                $this->byDigits[$key][] = $m;
            }
        }
    }

    /** @return list<array{Movement, string}> what a line calls by name, each once, with that name */
    public function in(BankLine $line): array
    {
        $words = $line->words();
        $found = [];
        foreach (OpenItemFinder::digits($words) as $key) {
            foreach ($this->byDigits[$key] ?? [] as $m) {
                foreach ([$m->number, ...$m->names] as $name) {
                    if ('' !== $name && DocumentName::isIn($words, $name)) {
                        $found[$m->entry] ??= [$m, $name];
                    }
                }
            }
        }

        return array_values($found);
    }
}
