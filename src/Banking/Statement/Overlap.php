<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

/** What happens with lines that a statement has and that are there already. */
enum Overlap: string
{
    /** Nobody decided yet: it is asked. */
    case Ask = '';
    /** Only the lines that are new are taken. */
    case Skip = 'skip';
    /** The statement that has them goes, as long as nothing of it is placed. */
    case Replace = 'replace';
    /** Both are meant: the bank booked twice. */
    case Keep = 'keep';
}
