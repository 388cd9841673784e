<?php

declare(strict_types=1);

namespace Nelbix\App\Pairing;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Pairing\Row;

/** The rows of a set that no pair took, as values of the core. */
final readonly class FreeRows
{
    public function __construct(private Connection $db)
    {
    }

    /** @return list<Row> */
    public function of(PairingSet $set, string $side): array
    {
        $rows = $days = [];
        $sign = $set->signOf($side);
        foreach (
            $this->db->iterateNumeric(
                'SELECT id, amount, dated, fields FROM pairing_row WHERE set_id = ? AND side = ? AND pair_id IS NULL ORDER BY id',
                [$set->id(), $side],
            ) as [$id, $amount, $dated, $fields]
        ) {
            /** @var array<string, string> $own */
            $own = (array) json_decode((string) $fields, true);
            $rows[] = new Row(
                (int) $id,
                $sign * (int) $amount,
                $days[(string) $dated] ??= Day::of((string) $dated),
                $set->fieldsOf($side, $own),
            );
        }

        return $rows;
    }
}
