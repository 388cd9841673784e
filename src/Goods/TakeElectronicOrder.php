<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\App\Parties\VendorOfPaper;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\Core\Formats\Ubl\UblOrderReader;
use Nelbix\Core\Refused;

/** Enters an order from a file in UBL 2.1: vendor by tax number, the account of each line is the vendor's usual one. */
final readonly class TakeElectronicOrder
{
    public function __construct(
        private VendorOfPaper $vendors,
        private OrderReader $reader,
        private KeepOrder $keepOrder,
    ) {
    }

    /**
     * @return int the order's id
     *
     * @throws Refused when it cannot be read, the vendor is not known, or its number is used
     */
    public function take(Actor $actor, string $xml, ?FormKey $form = null): int
    {
        $order = UblOrderReader::read($xml);
        $vendor = $this->vendors->find($actor->companyId, $order->sellerTaxNumber, $order->sellerName, 'order');
        $input = $this->reader->read(
            $actor,
            [
                'party' => $vendor['code'],
                'number' => $order->number,
                'ordered_on' => $order->date->iso(),
                'wanted_by' => $order->wantedBy?->iso() ?? '',
                'currency' => $order->currency,
                'note' => $order->note,
                'lines' => array_map(
                    static fn (array $l): array => [
                        'text' => $l['text'],
                        'quantity' => $l['quantity'],
                        'unit' => $l['unit'],
                        'price' => $l['price'],
                        'wanted_by' => $l['wantedBy']?->iso() ?? '',
                    ],
                    $order->lines,
                ),
            ],
            true,
        );

        return $this->keepOrder->enter($actor, $input, $form);
    }
}
