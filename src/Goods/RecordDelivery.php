<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\StoresNumbers;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DeliveryEntry;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Records goods received and posts them at order price: delivery, lines and entry, or nothing. */
final readonly class RecordDelivery implements StoresNumbers
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private LedgerWriter $ledger,
        private PeriodGate $periods,
        private Chart $chart,
        private Rates $rates,
        private Numbering $numbering,
        private History $history,
        private ClockInterface $clock,
        private Bulk $bulk,
    ) {
    }

    /**
     * @param FormKey|null $form the same one twice makes one delivery
     *
     * @return int the delivery's id
     *
     * @throws Refused with every problem of the input
     */
    public function record(Actor $actor, DeliveryInput $input, ?FormKey $form = null): int
    {
        $party = $input->party;
        $day = $input->deliveredOn;
        if (null === $party || null === $day || [] !== $input->problems || [] === $input->lines) {
            throw Refused::all(
                [] === $input->problems ? [new Problem('', 'The delivery cannot be read.')] : $input->problems,
            );
        }

        return $this->transaction->once($actor, 'delivery', $form, function () use ($actor, $input, $party, $day): int {
            $this->periods->mustBeOpen($actor->companyId, $day, [], 'delivered_on');
            $base = $this->base($actor, $input, $day);
            $control = $this->chart->role($actor->companyId, AccountRole::ReceivedNotInvoiced);
            $delivery = new Delivery(
                $actor->companyId,
                $party->id(),
                $input->noteNumber,
                $day,
                $input->currency,
                (string) $this->rates->on($actor->companyId, $input->currency, $actor->baseCurrency, $day),
                $input->amount(),
                $base,
                $control,
                $actor->userId,
                $this->clock->now(),
            );
            $this->entities->persist($delivery);
            foreach (DeliveryEntry::bases(array_column($input->lines, 'amount'), $base) as $k => $share) {
                $l = $input->lines[$k];
                $this->entities->persist(
                    new DeliveryLine(
                        $delivery,
                        $k + 1,
                        $l['account'],
                        $l['text'],
                        (string) $l['quantity'],
                        (string) $l['price'],
                        $l['amount'],
                        $share,
                        $l['analysis']->costCenter,
                        $l['analysis']->department,
                        $l['analysis']->project,
                    ),
                );
            }
            $this->entities->flush();
            $this->numbering->announce(
                $actor->companyId,
                'GR',
                $day,
                $delivery,
                static function (string $number) use ($delivery): void {
                    $delivery->number = $number;
                },
                $this,
            );
            $this->ledger->write(
                $actor,
                new EntryOrder(
                    DeliveryEntry::draft($control, $party->id(), 'delivery', $input->currency, $input->lines, $base),
                    $day,
                    static fn (): string => trim($delivery->number.' '.$input->noteNumber),
                    [],
                    source: Source::delivery($delivery->id()),
                ),
            );
            $this->history->note($actor, 'delivery', $delivery->id(), 'recorded');

            return $delivery->id();
        });
    }

    public function storeNumbers(array $records): void
    {
        $numbers = [];
        foreach ($records as $delivery) {
            \assert($delivery instanceof Delivery);
            $numbers[$delivery->id()] = ['number' => $delivery->number];
        }
        $this->bulk->update('delivery', $numbers);
    }

    /** The entry as recording would post it, or null while something is missing. */
    public function preview(Actor $actor, DeliveryInput $input): ?JournalDraft
    {
        return null === $input->party || [] === $input->lines || 0 === $input->amount()
            ? null
            : DeliveryEntry::draft(
                $this->chart->role($actor->companyId, AccountRole::ReceivedNotInvoiced),
                $input->party->id(),
                'delivery',
                $input->currency,
                $input->lines,
                $this->base($actor, $input, $input->deliveredOn),
            );
    }

    private function base(Actor $actor, DeliveryInput $input, ?Day $day): int
    {
        return $input->currency === $actor->baseCurrency
            ? $input->amount()
            : InvoiceEntry::base(
                $input->amount(),
                $input->currency,
                $actor->baseCurrency,
                $this->rates->on(
                    $actor->companyId,
                    $input->currency,
                    $actor->baseCurrency,
                    $day ??
                        throw Refused::because(
                            'delivered_on',
                            'The day of the delivery is missing.',
                            ProblemKind::Missing,
                        ),
                ),
            );
    }
}
