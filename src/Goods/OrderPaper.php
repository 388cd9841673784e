<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Company;

/** What stands on the paper that a vendor gets of an order. */
final readonly class OrderPaper
{
    public function __construct(
        private EntityManagerInterface $entities,
        private OrderedLines $lines,
        private OrderQuery $query,
    ) {
    }

    /** @return array{company: Company, order: PurchaseOrder, party: array<string, mixed>, lines: list<OrderedLine>}|null */
    public function of(Company $company, int $id): ?array
    {
        $order = $this->entities->find(PurchaseOrder::class, $id);
        $party = null === $order || $order->companyId !== $company->id() ? false : $this->query->head($id);

        return null === $order || false === $party
            ? null
            : ['company' => $company, 'order' => $order, 'party' => $party, 'lines' => $this->lines->ofOrder($id)];
    }
}
