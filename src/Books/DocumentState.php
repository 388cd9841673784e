<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

enum DocumentState: string
{
    case Draft = 'draft';
    case Posted = 'posted';
    case Reversed = 'reversed';
}
