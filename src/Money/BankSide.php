<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Symfony\Component\DependencyInjection\Attribute\Exclude;

/** What money does to its bank account, for the board: minor units of the account's currency, and the money's worth in base. */
#[Exclude]
final readonly class BankSide
{
    /**
     * @param int|null $amount what moves there; null while it is not known
     * @param int|null $atTable what the table's rates make of it
     */
    public function __construct(public string $currency, public ?int $amount, public ?int $atTable)
    {
    }
}
