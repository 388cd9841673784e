<?php

declare(strict_types=1);

namespace Nelbix\Core\Terms;

use Nelbix\Core\Calendar\Day;

/** The dates of a document that a term may start from, and what the clerk typed in their place. */
final readonly class TermDates
{
    /**
     * @param Day|null $asked date asked of the clerk, for terms that run from one
     * @param Day|null $start start date typed by the clerk; replaces the computed start
     * @param Day|null $due due date typed by the clerk; replaces the net step
     */
    public function __construct(
        public Day $document,
        public Day $posting,
        public ?Day $entry = null,
        public ?Day $asked = null,
        public ?Day $start = null,
        public ?Day $due = null,
    ) {
    }
}
