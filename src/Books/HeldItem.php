<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Nelbix\Core\OpenItems\OpenItem;

/** An open item as it stands under this transaction's lock, and who reserved it. */
final readonly class HeldItem
{
    public function __construct(public OpenItem $item, public ?Reservation $reservedBy)
    {
    }

    public function as(OpenItem $item): self
    {
        return new self($item, $this->reservedBy);
    }
}
