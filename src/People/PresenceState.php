<?php

declare(strict_types=1);

namespace Nelbix\App\People;

/** How far somebody is signed in. */
enum PresenceState
{
    case There;
    case HalfWay;
    case LeftAlone;
    case Ended;
}
