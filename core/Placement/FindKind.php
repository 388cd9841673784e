<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

/** What Nelbix found for a line of a statement, in the order in which it looks. Source: rules.md, Bank statements. */
enum FindKind: string
{
    case Check = 'check';
    case Reference = 'reference';
    case Bounce = 'bounce';
    case Movement = 'movement';
    case Items = 'items';
    case Transfer = 'transfer';
    case Rule = 'rule';
    case Party = 'party';
}
