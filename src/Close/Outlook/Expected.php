<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Outlook;

use Nelbix\Core\Aging\CashFlow;
use Nelbix\Core\Calendar\Day;

/** Money that is expected, and what it is expected of. */
final readonly class Expected
{
    private const UNKNOWN = 'no rate or no amount is known';

    /**
     * @param string $route of what it comes of: document, party, proposal, order, recurring, bank, account
     * @param int|string $id of it
     * @param Day|null $due when it falls due, where that is not the day it is expected on
     * @param string $why what the day rests on
     * @param Day|null $was the day before it was moved to see what that would do; null when it was not moved
     */
    public function __construct(
        public CashFlow $flow,
        public string $route,
        public int|string $id,
        public string $name,
        public string $party = '',
        public ?Day $due = null,
        public string $why = '',
        public ?Day $was = null,
    ) {
    }

    /** Something that comes, of which nobody knows what it is worth: no rate, or no amount. It is named, and counts for nothing. */
    public static function unknown(string $kind, Day $day, string $route, int|string $id, string $name): self
    {
        return new self(new CashFlow($kind, 0, $day), $route, $id, $name, why: self::UNKNOWN);
    }

    public function isUnknown(): bool
    {
        return self::UNKNOWN === $this->why;
    }

    /** The money as it is expected without anything moved. */
    public function plain(): CashFlow
    {
        return null === $this->was ? $this->flow : new CashFlow($this->flow->kind, $this->flow->amount, $this->was);
    }
}
