<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

/** When the text of a line has these words, and its amount lies between: what it is then. Amounts in minor units, without sign. */
final readonly class ReadingRule
{
    /**
     * @param list<string> $words all of them stand in the line, in any order; capitals do not count
     * @param int $direction 1 for what comes in, -1 for what goes out, 0 for both
     */
    public function __construct(
        public int $id,
        public string $name,
        public array $words,
        public int $direction = 0,
        public ?int $least = null,
        public ?int $most = null,
    ) {
    }

    public function fits(BankLine $line): bool
    {
        $amount = abs($line->amount);
        if (
            0 === $line->amount
            || (0 !== $this->direction && $this->direction !== ($line->amount <=> 0))
            || (null !== $this->least && $amount < $this->least)
            || (null !== $this->most && $amount > $this->most)
        ) {
            return false;
        }
        $text = mb_strtolower($line->words());
        foreach ($this->words as $word) {
            if (!str_contains($text, mb_strtolower($word))) {
                return false;
            }
        }

        return [] !== $this->words;
    }
}
