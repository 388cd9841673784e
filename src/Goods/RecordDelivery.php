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

/** Records what came and posts it at the agreed price, or that of its paper: delivery, lines and entry, or nothing. */
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
        private ComesForOrder $comes,
        private SettleAwaited $awaited,
    ) {
    }

    /**
     * @param FormKey|null $form the same one twice makes one delivery
     * @param bool $services accepted by whoever ordered them; else goods
     *
     * @return int the delivery's id
     *
     * @throws Refused with every problem of the input
     */
    public function record(Actor $actor, DeliveryInput $input, ?FormKey $form = null, bool $services = false): int
    {
        $party = $input->party;
        $day = $input->deliveredOn;
        if (null === $party || null === $day || [] !== $input->problems || [] === $input->lines) {
            throw Refused::all(
                [] === $input->problems ? [new Problem('', 'The delivery cannot be read.')] : $input->problems,
            );
        }

        return $this->transaction->once($actor, 'delivery', $form, function () use (
            $actor,
            $input,
            $party,
            $day,
            $services,
        ): int {
            $this->periods->mustBeOpen($actor->companyId, $day, [], 'delivered_on');
            $this->comes->for($actor, $input, $services);
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
            $delivery->remark = $input->remark;
            $delivery->openBase = $base;
            $this->write($delivery, $input, $base);
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
                    DeliveryEntry::draft(
                        $control,
                        $party->id(),
                        'delivery',
                        $input->currency,
                        self::drafted($input),
                        $base,
                    ),
                    $day,
                    static fn (): string => trim($delivery->number.' '.$input->noteNumber),
                    [],
                    source: Source::delivery($delivery->id()),
                ),
            );
            $this->history->note(
                $actor,
                'delivery',
                $delivery->id(),
                $services ? 'accepted' : 'recorded',
                $input->remark,
            );
            $this->awaited->arrive($actor, $delivery, $input->orderLines());

            return $delivery->id();
        });
    }

    private function write(Delivery $delivery, DeliveryInput $input, int $base): void
    {
        $this->entities->persist($delivery);
        $this->entities->flush();
        $lines = [];
        $shares = DeliveryEntry::bases(array_column(self::drafted($input), 'amount'), $base);
        foreach (array_values($input->lines) as $k => $l) {
            $lines[] = new DeliveryLine(
                $delivery,
                $k + 1,
                $l->account,
                $l->text,
                (string) $l->quantity,
                (string) $l->price,
                $l->amount,
                $shares[$k],
                $l->analysis->costCenter,
                $l->analysis->department,
                $l->analysis->project,
                $l->ordered?->id,
                $l->unit,
            );
        }
        $this->bulk->insert($lines);
    }

    /** @return non-empty-list<array{account: int, amount: int, text: string, analysis: \Nelbix\Core\Ledger\Analysis}> */
    private static function drafted(DeliveryInput $input): array
    {
        $lines = array_map(
            static fn (DeliveredLine $l): array => [
                'account' => $l->account,
                'amount' => $l->amount,
                'text' => $l->text,
                'analysis' => $l->analysis,
            ],
            array_values($input->lines),
        );

        return [] === $lines ? throw new \LogicException('A delivery has lines.') : $lines;
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
                self::drafted($input),
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
