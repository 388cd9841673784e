<?php

declare(strict_types=1);

namespace Nelbix\Core\Matching;

/** Why an invoice does not fit what was ordered and received. */
enum Over: string
{
    case Price = 'price';
    case Quantity = 'quantity';
    case Total = 'total';
    case NotOrdered = 'not ordered';
    case NotReceived = 'not received';
}
