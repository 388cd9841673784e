<?php

declare(strict_types=1);

namespace Nelbix\Core\Tax;

/** The tax of one code on a document, in minor units. tax = recoverable + what is not. */
final readonly class TaxLine
{
    public function __construct(public TaxCode $code, public int $net, public int $tax, public int $recoverable)
    {
    }
}
