<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Platform\Actor;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\AutoconfigureTag;

/** Takes one kind of CSV file over, record by record, through the same use cases as the screens. */
#[AutoconfigureTag]
interface CsvImporter
{
    /** @return list<string> the kinds it serves */
    public function kinds(): array;

    /** @return list<string> columns that must be there */
    public function required(string $kind): array;

    /** @return list<string> */
    public function optional(string $kind): array;

    /** @return list<string> columns that rows of one record share; empty when each row is a record of its own */
    public function key(string $kind): array;

    /** @return list<string> columns that records share which may get in each other's way; empty when all of them may */
    public function together(string $kind): array;

    /**
     * @param non-empty-list<array<string, string>> $rows of one record
     *
     * @return list<int> the documents, settlements, entries by hand or deliveries that it became; none for what is only kept
     *
     * @throws Refused fields of a row beyond the first are named "lines.N.column"
     */
    public function take(Actor $actor, string $kind, array $rows, bool $approved): array;
}
