<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Books\Lookup;
use Nelbix\App\Goods\DeliveryReader;
use Nelbix\App\Goods\OrderedLines;
use Nelbix\App\Goods\RecordDelivery;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;

/** Deliveries of what was ordered, from files: rows of the same vendor, note and day are one. */
final readonly class DeliveryImporter implements CsvImporter
{
    public function __construct(
        private Lookup $lookup,
        private OrderedLines $ordered,
        private DeliveryReader $reader,
        private RecordDelivery $record,
    ) {
    }

    public function kinds(): array
    {
        return ['deliveries'];
    }

    public function required(string $kind): array
    {
        return ['vendor', 'date', 'order', 'line', 'quantity'];
    }

    public function optional(string $kind): array
    {
        return ['note', 'price', 'remark'];
    }

    public function key(string $kind): array
    {
        return ['vendor', 'note', 'date'];
    }

    public function together(string $kind): array
    {
        return ['vendor'];
    }

    public function take(Actor $actor, string $kind, array $rows, bool $approved): array
    {
        $problems = new ProblemList();
        SameOnAll::check($rows, ['remark'], 'delivery', $problems);
        $party = $problems->attempt(
            fn () => $this->lookup->party(
                $actor->companyId,
                Side::Payables,
                mb_substr($rows[0]['vendor'], 0, 120),
                'vendor',
            ),
        );
        $lines = [];
        foreach ($rows as $k => $row) {
            $id =
                null === $party
                    ? null
                    : $this->ordered->numbered($actor->companyId, $party->id(), $row['order'], (int) $row['line']);
            if (null !== $party && null === $id) {
                $problems->add(
                    "lines.$k.order",
                    \sprintf(
                        '%s has no order “%s” with a line %s.',
                        $party->name,
                        mb_strimwidth($row['order'], 0, 40, '…'),
                        mb_strimwidth($row['line'], 0, 10, '…'),
                    ),
                    ProblemKind::Unknown,
                );
            }
            if ('' === $row['quantity']) {
                $problems->add("lines.$k.quantity", 'The quantity is missing.', ProblemKind::Missing);
            }
            $lines[] = ['order_line' => (string) $id, 'quantity' => $row['quantity'], 'price' => $row['price']];
        }
        $problems->refuse();
        $delivery = $this->record->record(
            $actor,
            $this->reader->read(
                $actor,
                [
                    'party' => (string) $party?->code,
                    'delivered_on' => $rows[0]['date'],
                    'note_number' => $rows[0]['note'],
                    'remark' => $rows[0]['remark'],
                    'lines' => $lines,
                ],
                true,
            ),
        );

        return [$delivery];
    }
}
