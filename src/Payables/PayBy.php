<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

/** How a payment leaves the house. */
enum PayBy: string
{
    case Check = 'check';
    case HandCheck = 'hand';
    case Wire = 'wire';
    case File = 'file';
    case Card = 'card';

    /** What a vendor's method comes to in a run. */
    public static function of(string $method): self
    {
        return match ($method) {
            'transfer' => self::File,
            'card' => self::Card,
            default => self::Check,
        };
    }

    public function words(): string
    {
        return match ($this) {
            self::Check => 'check printed here',
            self::HandCheck => 'check written by hand',
            self::Wire => 'wire recorded',
            self::File => 'bank file',
            self::Card => 'card',
        };
    }

    /** The money goes to an account of the payee that must be known and confirmed. */
    public function needsBank(): bool
    {
        return self::File === $this;
    }

    /** The clerk gives its number: nothing here makes one. */
    public function needsReference(): bool
    {
        return self::HandCheck === $this;
    }
}
