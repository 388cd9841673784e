<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Goods\KeepOrder;
use Nelbix\App\Goods\OrderReader;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\ProblemList;

/** Purchase orders from files: they are entered as on the screen, and above the limit wait for approval like any other. */
final readonly class OrderImporter implements CsvImporter
{
    private const ORDER = ['order_date', 'wanted_by', 'currency', 'note'];

    private const LINE = [
        'text',
        'quantity',
        'unit',
        'price',
        'account',
        'tax_code',
        'cost_center',
        'department',
        'project',
        'kind',
    ];

    public function __construct(private OrderReader $reader, private KeepOrder $keepOrder)
    {
    }

    public function kinds(): array
    {
        return ['purchase-orders'];
    }

    public function required(string $kind): array
    {
        return ['vendor', 'order', 'line', 'text', 'quantity', 'price', 'account'];
    }

    public function optional(string $kind): array
    {
        return [...self::ORDER, 'unit', 'tax_code', 'cost_center', 'department', 'project', 'kind'];
    }

    public function key(string $kind): array
    {
        return ['vendor', 'order'];
    }

    public function together(string $kind): array
    {
        return ['order'];
    }

    public function take(Actor $actor, string $kind, array $rows, bool $approved): array
    {
        $problems = new ProblemList();
        if ('' === $rows[0]['order']) {
            $problems->add('order', 'The number of the order is missing.');
        }
        SameOnAll::check($rows, self::ORDER, 'order', $problems);
        foreach ($rows as $k => $row) {
            if ((string) ($k + 1) !== $row['line']) {
                $problems->add(
                    "lines.$k.line",
                    'The lines of an order are numbered 1, 2, 3 and so on, in their order.',
                );
            }
        }
        $problems->refuse();
        $this->keepOrder->enter(
            $actor,
            $this->reader->read(
                $actor,
                [
                    'party' => $rows[0]['vendor'],
                    'number' => $rows[0]['order'],
                    'ordered_on' => $rows[0]['order_date'],
                    'wanted_by' => $rows[0]['wanted_by'],
                    'currency' => $rows[0]['currency'],
                    'note' => $rows[0]['note'],
                    'lines' => array_map(
                        static fn (array $r): array => array_intersect_key($r, array_flip(self::LINE)),
                        $rows,
                    ),
                ],
                true,
            ),
        );

        return [];
    }
}
