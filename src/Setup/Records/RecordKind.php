<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\Records;

use Nelbix\App\Platform\Actor;
use Nelbix\Core\Refused;
use Symfony\Component\DependencyInjection\Attribute\AutoconfigureTag;

/** A kind of coded record of a company's setup. One list, one form, one export serve them all. */
#[AutoconfigureTag]
interface RecordKind
{
    /** @return array<string, array{title: string, one: string}> the kinds it serves, as they stand in the address, such as cost-centers */
    public function kinds(): array;

    /** @return list<RecordField> the first is the code */
    public function fields(string $kind): array;

    /**
     * @return list<array{id: int, retired: bool, values: array<string, string>}> all of them, by code,
     *                                                                            values under the names of the fields
     */
    public function rows(int $companyId, string $kind): array;

    /**
     * @param array<mixed> $raw the fields, and retired
     *
     * @return int the id
     *
     * @throws Refused with every problem
     */
    public function save(Actor $actor, string $kind, array $raw, ?int $id): int;
}
