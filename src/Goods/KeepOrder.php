<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\DBAL\Exception\UniqueConstraintViolationException;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Approval;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Parties\Party;
use Nelbix\App\Parties\PartyDetails;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Bulk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\StoresNumbers;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Enters an order, or changes it as far as nothing of it has come. Above the limit somebody else approves it. Nothing is posted. */
final readonly class KeepOrder implements StoresNumbers
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private OrderLock $orders,
        private ChangeOrderLines $changeLines,
        private PartyDetails $details,
        private Rates $rates,
        private Settings $settings,
        private SomebodyElse $somebodyElse,
        private BooksDay $booksDay,
        private Numbering $numbering,
        private History $history,
        private ClockInterface $clock,
        private Bulk $bulk,
    ) {
    }

    /**
     * @return int the order's id
     *
     * @throws Refused with every problem of the input
     */
    public function enter(Actor $actor, OrderInput $input, ?FormKey $form = null): int
    {
        $party = $this->mayBeOrdered($actor, $input);
        $day = $input->orderedOn ?? $this->booksDay->of($actor->companyId);

        try {
            return $this->transaction->run(
                fn (): int => $this->transaction->once(
                    $actor,
                    'order',
                    $form,
                    fn (): int => $this->write($actor, $input, $party, $day),
                ),
            );
        } catch (UniqueConstraintViolationException) {
            throw self::taken($input->number);
        }
    }

    private static function taken(string $number): Refused
    {
        return Refused::because(
            'number',
            \sprintf('The number %s is already used; leave it empty for the next one.', $number),
        );
    }

    private function write(Actor $actor, OrderInput $input, Party $party, Day $day): int
    {
        if (
            '' !== $input->number
            && [] !==
                $this->entities->getRepository(PurchaseOrder::class)->findBy([
                    'companyId' => $actor->companyId,
                    'number' => $input->number,
                ])
        ) {
            throw self::taken($input->number);
        }
        $worth = $this->worth($actor, $input, $day);
        $order = new PurchaseOrder(
            $actor->companyId,
            $party->id(),
            $day,
            $input->wantedBy,
            $input->currency,
            $input->note,
            $this->approval($actor, $worth),
            $input->amount(),
            $worth,
            $actor->userId,
            $this->clock->now(),
        );
        $order->number = '' === $input->number ? null : $input->number;
        $this->entities->persist($order);
        $this->entities->flush();
        $this->changeLines->of($order, $input);
        if (null === $order->number) {
            $this->numbering->announce(
                $actor->companyId,
                'PO',
                $day,
                $order,
                static function (string $number) use ($order): void {
                    $order->number = $number;
                },
                $this,
            );
        }
        $this->somebodyElse->hadAHand($actor, 'purchase order', $order->id());
        $this->history->note($actor, 'purchase_order', $order->id(), 'ordered');

        return $order->id();
    }

    /**
     * @param int|null $version of the order on the page that it is changed from; null when there was no page
     *
     * @throws Refused for less than has come, another vendor, or an order that is closed or was changed meanwhile
     */
    public function change(Actor $actor, int $id, OrderInput $input, ?int $version): void
    {
        $party = $this->mayBeOrdered($actor, $input);
        $this->transaction->run(function () use ($actor, $id, $input, $version, $party): void {
            $order = $this->orders->locked($actor, $id, $version);
            if ($order->partyId !== $party->id() || $order->currency !== $input->currency) {
                throw Refused::because(
                    'party',
                    'Vendor and currency of an order stay as they are; close it, and enter another.',
                );
            }
            $before = [
                'amount' => self::amount($order),
                'wanted_by' => $order->wantedBy?->long() ?? '',
                'note' => $order->note,
            ];
            $said = $this->changeLines->of($order, $input);
            ++$order->changes;
            $worth = $this->worth($actor, $input, $order->orderedOn);
            // what was approved holds for as much, and for less; for more somebody decides again
            if ($worth > $order->worth || Approval::Refused === $order->approval) {
                $order->approval = $this->approval($actor, $worth);
            }
            [$order->amount, $order->worth] = [$input->amount(), $worth];
            [$order->wantedBy, $order->note] = [$input->wantedBy, $input->note];
            $this->entities->flush();
            $this->somebodyElse->hadAHand($actor, 'purchase order', $id);
            $this->history->change($actor, 'purchase_order', $id, $before, [
                'amount' => self::amount($order),
                'wanted_by' => $order->wantedBy?->long() ?? '',
                'note' => $order->note,
            ]);
            if ('' !== $said) {
                $this->history->note($actor, 'purchase_order', $id, 'changed', $said);
            }
        });
    }

    public function storeNumbers(array $records): void
    {
        $numbers = [];
        foreach ($records as $order) {
            \assert($order instanceof PurchaseOrder);
            $numbers[$order->id()] = ['number' => $order->number];
        }
        $this->bulk->update('purchase_order', $numbers);
    }

    /** @throws Refused with every problem */
    private function mayBeOrdered(Actor $actor, OrderInput $input): Party
    {
        $problems = $input->problems;
        $stop =
            null === $input->party
                ? null
                : $this->details->stopped($input->party->id(), 'orders', $this->booksDay->of($actor->companyId));
        if (null !== $stop) {
            $problems[] = new Problem(
                'party',
                \sprintf('No new orders: %s. Take the stop away on its page first.', $stop),
            );
        }
        if (null === $input->party || [] !== $problems || [] === $input->lines) {
            throw Refused::all([] === $problems ? [new Problem('', 'The order cannot be read.')] : $problems);
        }

        return $input->party;
    }

    private static function amount(PurchaseOrder $order): string
    {
        return Money::of($order->amount, $order->currency)->decimal();
    }

    private function worth(Actor $actor, OrderInput $input, Day $day): int
    {
        return InvoiceEntry::base(
            $input->amount(),
            $input->currency,
            $actor->baseCurrency,
            $this->rates->on($actor->companyId, $input->currency, $actor->baseCurrency, $day, 'currency'),
        );
    }

    private function approval(Actor $actor, int $worth): Approval
    {
        return $worth > $this->settings->of($actor->companyId)->amount('order_approval_above', $actor->baseCurrency)
            ? Approval::Awaiting
            : Approval::None;
    }
}
