<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

use Nelbix\Core\Ledger\Side;

/** A place that a line of a statement may have, with the reason in words. It is never taken by itself. */
final readonly class Find
{
    /**
     * @param string $reason why, as a person reads it
     * @param int $amount how much of the line it takes, in the line's sign, minor units of the account's currency
     * @param bool $exact nothing speaks against it: it may be marked to go when it is the only one of its kind
     * @param int $entry of what was recorded before; 0 for none
     * @param int $off line less what was recorded, where the two differ
     * @param Idea|null $idea which items it settles, and whose
     * @param int $id of the rule, the other bank account, the party or the receipt that bounced
     */
    public function __construct(
        public FindKind $kind,
        public string $reason,
        public int $amount,
        public bool $exact,
        public int $entry = 0,
        public int $off = 0,
        public ?Idea $idea = null,
        public ?Side $side = null,
        public int $party = 0,
        public int $id = 0,
        public string $currency = '',
    ) {
    }

    /** @return list<string> what it takes away from other lines */
    public function takes(): array
    {
        return match (true) {
            0 !== $this->entry => ['entry '.$this->entry],
            null !== $this->idea => array_map(
                static fn (int $item): string => 'item '.$item,
                array_keys($this->idea->placed),
            ),
            FindKind::Bounce === $this->kind => ['document '.$this->id],
            default => [],
        };
    }

    /** The same, not to be marked by itself any more, with what speaks against it. */
    public function but(string $why): self
    {
        return new self(...['exact' => false, 'reason' => $this->reason.'; '.$why] + get_object_vars($this));
    }
}
