<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Whether what came may be taken for its orders, and how much of each line has come then. Inside a transaction. */
final readonly class ComesForOrder
{
    public function __construct(
        private Connection $db,
        private OrderedLines $ordered,
        private VendorTolerances $tolerances,
    ) {
    }

    /**
     * Counts what came on the order's lines, under their locks.
     *
     * @throws Refused for an order that is closed or not approved, more than was ordered, or a service that somebody else ordered
     */
    public function for(Actor $actor, DeliveryInput $input, bool $services): void
    {
        $ids = $input->orderLines();
        $ordered = $this->ordered->of($actor->companyId, $ids, true);
        $problems = $came = [];
        foreach ($input->lines as $k => $line) {
            if (null === $line->ordered) {
                $problems = $services
                    ? [
                        ...$problems,
                        new Problem("lines.$k.order_line", 'Only services that were ordered are accepted here.'),
                    ]
                    : $problems;
                continue;
            }
            $of =
                $ordered[$line->ordered->id] ??
                throw Refused::because(
                    "lines.$k.order_line",
                    'There is no such line of an order; load the page anew.',
                    ProblemKind::Unknown,
                );
            $came[$of->id] = ($came[$of->id] ?? $of->received)->plus($line->quantity);
            array_push($problems, ...$this->problems($actor, $of, $came[$of->id], $k, $services));
        }
        if ([] !== $problems) {
            throw Refused::all($problems);
        }
        foreach ($came as $id => $quantity) {
            $this->db->executeStatement('UPDATE purchase_order_line SET received = ? WHERE id = ?', [
                (string) $quantity,
                $id,
            ]);
        }
    }

    /** @return list<Problem> */
    private function problems(Actor $actor, OrderedLine $of, BigDecimal $came, int $k, bool $services): array
    {
        $problems = [];
        if (!$of->mayCome()) {
            $problems[] = new Problem(
                "lines.$k.order_line",
                \sprintf('%s is %s; nothing is taken for it.', $of->order, $of->closed ? 'closed' : 'not approved'),
                null,
                ProblemKind::Taken,
            );
        }
        if ($of->service !== $services) {
            $problems[] = new Problem(
                "lines.$k.order_line",
                $of->service
                    ? \sprintf('“%s” is a service; %s accepts it, who ordered it.', $of->text, $of->orderedByName)
                    : \sprintf('“%s” is goods; whoever receives them records them.', $of->text),
            );
        } elseif ($services && $of->orderedBy !== $actor->userId) {
            $problems[] = new Problem(
                "lines.$k.order_line",
                \sprintf('“%s” is accepted by %s, who ordered it.', $of->text, $of->orderedByName),
            );
        }
        if (!$this->tolerances->of($actor->companyId, $of->partyId)->quantity->allows($of->quantity, $came)) {
            $problems[] = new Problem(
                "lines.$k.quantity",
                \sprintf(
                    'Of “%s” %s were ordered on %s and %s are still to come; take that, and the rest as goods that nobody ordered.',
                    $of->text,
                    $of->quantity,
                    $of->order,
                    $of->toCome(),
                ),
                null,
                ProblemKind::TooMuch,
            );
        }

        return $problems;
    }
}
