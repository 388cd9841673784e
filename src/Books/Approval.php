<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

/** Whether a posted vendor invoice still needs somebody else's word before it can be paid. */
enum Approval: string
{
    case None = 'none';
    case Awaiting = 'awaiting';
    case Approved = 'approved';
    case Refused = 'refused';
}
