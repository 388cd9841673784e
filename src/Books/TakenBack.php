<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Symfony\Component\DependencyInjection\Attribute\AutoconfigureTag;

/** An area that took something with a document, and gives it back when the document is reversed. Called inside the transaction. */
#[AutoconfigureTag]
interface TakenBack
{
    /** The day before which it cannot be taken back; null when there is none. */
    public function notBefore(Document $document): ?Day;

    /** @param Day $day on which the document is reversed */
    public function takeBack(Actor $actor, Document $document, Day $day): void;
}
