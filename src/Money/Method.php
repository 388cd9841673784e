<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

/** How money came or went. */
enum Method: string
{
    case Transfer = 'transfer';
    case Check = 'check';
    case Cash = 'cash';
    case Card = 'card';
    case Debit = 'debit';
    case Wire = 'wire';
    case Print = 'print';
    case Hand = 'hand';

    /** @return non-empty-list<self> what a board of this kind offers, the usual one first */
    public static function of(BoardMode $mode): array
    {
        return BoardMode::Payment === $mode
            ? [self::Wire, self::Print, self::Hand, self::Card]
            : [self::Transfer, self::Check, self::Cash, self::Card, self::Debit];
    }

    /** The one that was chosen, or the usual one of the board. */
    public static function chosen(BoardMode $mode, string $typed): self
    {
        $method = self::tryFrom($typed);

        return null !== $method && \in_array($method, self::of($mode), true) ? $method : self::of($mode)[0];
    }

    /** It has to be carried to the bank. */
    public function isOnHand(): bool
    {
        return \in_array($this, [self::Check, self::Cash], true);
    }

    public function words(): string
    {
        return match ($this) {
            self::Debit => 'direct debit',
            self::Wire => 'wire, made outside',
            self::Print => 'check, printed here',
            self::Hand => 'check written by hand',
            default => $this->value,
        };
    }
}
