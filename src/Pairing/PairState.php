<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

/** How sure it is that rows belong together. */
enum PairState: string
{
    case Certain = 'certain';
    /** A rule found it and a person is asked. */
    case Asked = 'asked';
    /** A person said yes. */
    case Confirmed = 'confirmed';
    case ByHand = 'by hand';
    /** A person said no, or it was taken back. */
    case Undone = 'undone';

    /** @return list<string> those whose rows belong together */
    public static function standing(): array
    {
        return [self::Certain->value, self::Confirmed->value, self::ByHand->value];
    }
}
