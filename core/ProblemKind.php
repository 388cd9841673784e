<?php

declare(strict_types=1);

namespace Nelbix\Core;

/** What is wrong, in kind, for code that has to tell one from the other; people read the message. */
enum ProblemKind: string
{
    case Wrong = 'wrong';
    /** Nothing was given where something must be. */
    case Missing = 'missing';
    /** It names something that is not there, or is retired. */
    case Unknown = 'unknown';
    /** More than a rule or a limit allows. */
    case TooMuch = 'too_much';
    /** Somebody else has it: a number, an item, a name. */
    case Taken = 'taken';
    /** It may be right; a person must say so, or why. */
    case Asks = 'asks';
}
