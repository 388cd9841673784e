<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\LotGuard;
use Nelbix\App\Books\LotOf;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * Takes back a delivery that was recorded by mistake, as long as nothing of it is invoiced, sent back or cleared. Invoices that waited
 * for it wait again.
 */
final readonly class ReverseDelivery
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private LedgerWriter $ledger,
        private PeriodGate $periods,
        private History $history,
        private SettleAwaited $awaited,
        private ReturnedGoods $returned,
        private LotGuard $lots,
    ) {
    }

    /** @throws Refused without a reason, once some of it is invoiced, before the delivery, in a locked period, or twice */
    public function reverse(Actor $actor, int $id, Day $day, string $reason): Delivery
    {
        return $this->transaction->run(function () use ($actor, $id, $day, $reason): Delivery {
            $delivery = $this->entities->find(Delivery::class, $id, LockMode::PESSIMISTIC_WRITE);
            if (null === $delivery || $delivery->companyId !== $actor->companyId) {
                throw Refused::because('', 'There is no such delivery in this company.', ProblemKind::Unknown);
            }
            $this->entities->refresh($delivery, LockMode::PESSIMISTIC_WRITE);
            if (null !== $delivery->reversedOn) {
                throw Refused::because(
                    '',
                    \sprintf('%s was already reversed on %s.', $delivery->number, $delivery->reversedOn->long()),
                );
            }
            if ('' === trim($reason)) {
                throw Refused::because('reason', 'Say why it is taken back; the history keeps your words.');
            }
            $this->lots->mustBeThrough(LotOf::Deliveries, [$id], (string) $delivery->number);
            $this->returned->mustNotHaveGoneBack(null, $id);
            $this->awaited->takeBackDelivery($actor, $id, $day);
            $this->entities->refresh($delivery);
            $this->untouched($delivery, $day);
            $this->periods->mustBeOpen($actor->companyId, $day, [], 'date');
            $delivery->reversedOn = $day;
            $delivery->reversedById = $actor->userId;
            $delivery->reason = mb_substr(trim($reason), 0, 255);
            $delivery->openBase = 0;
            $delivery->isOpen = false;
            $this->entities->flush();
            $this->ledger->reverseOf($actor, Source::delivery($id), $day, $delivery->number.' reversed');
            $this->history->note($actor, 'delivery', $id, 'reversed', $delivery->reason);

            return $delivery;
        });
    }

    /**
     * Its lines come to nothing, and what they counted on their orders is still to come again.
     *
     * @throws Refused
     */
    private function untouched(Delivery $delivery, Day $day): void
    {
        $db = $this->entities->getConnection();
        $lines = $db->fetchAllAssociative(
            'SELECT id, quantity, open_quantity, order_line_id, last_undone_on FROM delivery_line WHERE delivery_id = ? '.
                'ORDER BY id FOR UPDATE',
            [$delivery->id()],
        );
        $from = $delivery->deliveredOn;
        $ofOrder = [];
        foreach ($lines as $line) {
            if (!BigDecimal::of((string) $line['open_quantity'])->isEqualTo((string) $line['quantity'])) {
                throw Refused::because('', $this->taken($delivery), ProblemKind::Taken);
            }
            $from = Day::latest(
                $from,
                null === $line['last_undone_on'] ? $from : Day::of((string) $line['last_undone_on']),
            );
            if (null !== $line['order_line_id']) {
                $ofOrder[(int) $line['order_line_id']][] = (string) $line['quantity'];
            }
        }
        if ($day->isBefore($from)) {
            throw Refused::because(
                'date',
                $from->equals($delivery->deliveredOn)
                    ? \sprintf('The goods came on %s; the reversal cannot be dated before.', $from->long())
                    : \sprintf('Something of it was given back on %s; date the reversal then or later.', $from->long()),
            );
        }
        $db->executeStatement(
            'UPDATE delivery_line SET open_quantity = 0, open_amount = 0, open_base = 0 WHERE delivery_id = ?',
            [$delivery->id()],
        );
        ksort($ofOrder);
        foreach ($ofOrder as $line => $quantities) {
            $db->executeStatement('UPDATE purchase_order_line SET received = received - ? WHERE id = ?', [
                (string) BigDecimal::sum(...$quantities),
                $line,
            ]);
        }
    }

    private function taken(Delivery $delivery): string
    {
        $by = $this->entities->getConnection()->fetchFirstColumn(
            <<<'SQL'
            SELECT DISTINCT COALESCE(d.number, s.number)
            FROM delivery_line l
            JOIN goods_move m ON m.delivery_line_id = l.id AND m.undone_on IS NULL
            LEFT JOIN document d ON d.id = m.document_id
            LEFT JOIN goods_slip s ON s.id = m.slip_id
            WHERE l.delivery_id = ?
            ORDER BY 1
            SQL
            ,
            [$delivery->id()],
        );

        return \sprintf('Of %s something is in %s; take that back first.', $delivery->number, implode(', ', $by));
    }
}
