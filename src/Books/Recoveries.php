<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;

/**
 * Money for debts that were written off: of one's own debts, up to what was written off and not recovered, and the write-off stands as
 * long as a recovery of it does. Source: rules.md, Journal entries.
 */
final readonly class Recoveries
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * Holds the write-offs that are recovered here, so that two who recover the same one wait for each other.
     *
     * @param list<SettlementRequest> $requests
     */
    public function hold(array $requests): void
    {
        $debts = [];
        foreach ($requests as $request) {
            array_push($debts, ...array_filter(array_column($request->adjustments, 'recovers')));
        }
        if ([] !== $debts) {
            $this->db->executeQuery(
                <<<'SQL'
                SELECT s.id
                FROM settlement s
                JOIN settlement_adjustment j ON j.settlement_id = s.id
                WHERE j.id IN (?)
                ORDER BY s.id
                FOR UPDATE
                SQL
                ,
                [$debts],
                [ArrayParameterType::INTEGER],
            );
        }
    }

    /**
     * @param array<int, OpenItem> $items by id
     * @param array<int, WrittenOff> $debts by the adjustment that wrote them off
     *
     * @throws Refused
     */
    public function check(SettlementRequest $request, array $items, array $debts): void
    {
        foreach ($request->adjustments as $a) {
            if (AdjustmentKind::Recovery !== $a->kind) {
                continue;
            }
            $debt = null === $a->recovers ? null : $debts[$a->recovers] ?? null;
            $item = $items[$a->item] ?? null;
            $theirs = null !== $debt && $debt->party === $item?->party && $debt->currency === $item->currency;
            if (!$theirs || Side::Receivables !== $item->side || $item->open >= 0) {
                throw Refused::because(
                    'kind_debt',
                    'There is no such debt of this customer that was written off; choose one of its own.',
                    ProblemKind::Unknown,
                );
            }
            if ($a->amount > $debt->left()) {
                throw Refused::because(
                    'kind',
                    \sprintf(
                        '%s %s of %s was written off and is not recovered; %s is more. Leave the rest unapplied.',
                        Money::of($debt->left(), $debt->currency)->decimal(),
                        $debt->currency,
                        $debt->number,
                        Money::of($a->amount, $debt->currency)->decimal(),
                    ),
                );
            }
        }
    }

    /**
     * What is known of the debts once this was posted.
     *
     * @param array<int, WrittenOff> $debts
     *
     * @return array<int, WrittenOff>
     */
    public static function after(AdjustmentRequest $a, array $debts): array
    {
        $debt = null === $a->recovers ? null : $debts[$a->recovers] ?? null;
        if (null !== $debt) {
            $debts[$debt->adjustment] = new WrittenOff(
                ...['recovered' => $debt->recovered + $a->amount] + get_object_vars($debt),
            );
        }

        return $debts;
    }

    /** @throws Refused while a recovery of what the settlement wrote off stands */
    public function mustNotStand(int $settlementId): void
    {
        $by = $this->db->fetchOne(
            <<<'SQL'
            SELECT i.number
            FROM settlement_adjustment j
            JOIN settlement_adjustment r ON r.recovers_id = j.id
            JOIN settlement t ON t.id = r.settlement_id AND t.undone_on IS NULL
            JOIN open_item i ON i.id = r.item_id
            WHERE j.settlement_id = ?
            ORDER BY r.id
            LIMIT 1
            SQL
            ,
            [$settlementId],
        );
        if (false !== $by) {
            throw Refused::because(
                '',
                \sprintf('What was written off here was recovered by %s; undo or reverse that first.', $by),
            );
        }
    }
}
