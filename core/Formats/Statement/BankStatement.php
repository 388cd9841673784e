<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Statement;

use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/** A statement of one account over a span of days, whatever the format. Source: rules.md, Bank statements. */
final readonly class BankStatement
{
    /**
     * @param string $number of the statement, as the bank counts
     * @param string $account IBAN or number of the account
     * @param int $opening minor units; below zero is an overdraft
     * @param int $closing minor units
     * @param list<StatementLine> $lines in the bank's order
     */
    public function __construct(
        public string $number,
        public string $account,
        public string $currency,
        public Day $from,
        public Day $to,
        public int $opening,
        public int $closing,
        public array $lines,
    ) {
    }

    /** Opening + lines, minor units. */
    public function sum(): int
    {
        return $this->opening + array_sum(array_map(static fn (StatementLine $l): int => $l->amount, $this->lines));
    }

    /** @throws Refused with the difference when opening + lines is not closing */
    public function check(): self
    {
        if ($this->sum() === $this->closing) {
            return $this;
        }
        $say = fn (int $minor): string => Money::of($minor, $this->currency)->decimal();
        throw Refused::because(
            'file',
            \sprintf(
                'Statement %s opens with %s, its %d lines lead to %s, and it closes with %s: %s %s are missing. '.
                    'Ask the bank for a whole one.',
                $this->number,
                $say($this->opening),
                \count($this->lines),
                $say($this->sum()),
                $say($this->closing),
                $say($this->closing - $this->sum()),
                $this->currency,
            ),
        );
    }
}
