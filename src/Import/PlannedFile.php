<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\Core\Refused;

/** A file whose records are all worked out before anything is written. */
interface PlannedFile
{
    /**
     * Works the next record out. Writes and locks nothing.
     *
     * @param non-empty-list<array<string, string>> $rows
     *
     * @throws Refused as CsvImporter::take() does
     */
    public function plan(array $rows): void;

    /**
     * What only the whole file shows, once every record is planned. Writing looks again.
     *
     * @throws Refused fields are prefixed "record.N."
     */
    public function whole(): void;

    /**
     * Writes all that was planned, in one transaction and in few statements.
     *
     * @return list<int> the documents that were made
     *
     * @throws Refused when somebody else was first; fields are prefixed "record.N."
     */
    public function write(): array;
}
