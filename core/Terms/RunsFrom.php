<?php

declare(strict_types=1);

namespace Nelbix\Core\Terms;

/** The date that the days of a term are counted from. */
enum RunsFrom: string
{
    case Document = 'document';
    case Posting = 'posting';
    case Entry = 'entry';
    case Asked = 'asked';
}
