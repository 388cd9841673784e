<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Nelbix\App\Platform\Desk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\Permission;
use Nelbix\Core\Formats\UnitCode;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Symfony\Component\HttpFoundation\Response;

/** The form of an order, for the screens that show it; each has an OrderReader $reader. */
trait OrderForm
{
    /**
     * @param array<mixed> $raw
     * @param list<Problem> $problems
     */
    private function form(Desk $desk, array $raw, array $problems = [], ?PurchaseOrder $order = null): Response
    {
        return $this->render(
            'goods/order_form.html.twig',
            [
                ...$this->worked($desk, $raw),
                'order' => $order,
                'problems' => $problems,
                'errors' => self::byField($problems),
                'units' => UnitCode::OFFERED,
                'key' => FormKey::goOn($raw),
                // who may do all three may do them at once
                'at_once' => null === $order
                    && $desk->may(Permission::RecordDeliveries)
                    && $desk->may(Permission::EnterPayables),
            ],
            new Response(null, [] === $problems ? 200 : 422),
        );
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<string, mixed>
     */
    private function worked(Desk $desk, array $raw): array
    {
        $input = $this->reader->read($desk->actor, $raw);
        $typed = array_filter($input->problems, static fn (Problem $p): bool => ProblemKind::Missing !== $p->kind);

        return [
            'input' => $input,
            'form' => $raw,
            'typed' => self::byField(array_values($typed)),
            'rows' => self::formLines($raw, OrderReader::EMPTY),
        ];
    }
}
