<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

/** How a lot of documents stands. */
enum LotState: string
{
    /** A part is posted and held. */
    case UnderWay = 'under_way';

    /** What is posted is being reversed. */
    case TakingBack = 'taking_back';

    /** All are posted and free to be settled. */
    case Released = 'released';

    /** All are reversed; the file may be taken over again. */
    case TakenBack = 'taken_back';

    public function words(): string
    {
        return match ($this) {
            self::UnderWay => 'not through',
            self::TakingBack => 'being taken back',
            self::Released => 'taken over',
            self::TakenBack => 'taken back',
        };
    }
}
