<?php

declare(strict_types=1);

namespace Nelbix\App\Work;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Permission;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\AutoconfigureTag;

/** A kind of long work. What is still to be done is read from the record itself, so a killed worker goes on without repeating. */
#[AutoconfigureTag]
interface LongWork
{
    /** The name of the kind in the job table. */
    public function kind(): string;

    /** What a person needs to see such jobs; null when only who started one does. */
    public function seenWith(): ?Permission;

    /** The route of the page of its record, which takes "company" and "id". */
    public function route(): string;

    /**
     * Whether this job only looks: its slice is done outside of a transaction, so that it holds nothing that others wait for, and
     * keeps nothing but its result.
     */
    public function onlyLooks(Job $job): bool;

    /**
     * Does the next part, inside a transaction of its own: a second or less, or all of what must be kept whole.
     *
     * @throws Refused when it cannot go on; what the slices before did, stays
     */
    public function slice(Actor $actor, Job $job, Progress $progress): Slice;
}
