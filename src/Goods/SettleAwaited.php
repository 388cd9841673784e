<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Matching\ArrivalEntry;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;
use Symfony\Component\DependencyInjection\Attribute\AutowireIterator;

/**
 * Goods that come after their invoice settle what waits for them, the oldest invoice first: a slip for each invoice, with its entry. It is
 * taken back with the delivery, or with the invoice. Inside a transaction.
 */
final readonly class SettleAwaited
{
    /** @param iterable<GoodsCame> $areas */
    public function __construct(
        private EntityManagerInterface $entities,
        private AccruedLines $accrued,
        private AwaitedLines $awaited,
        private GoodsBook $goods,
        private AwaitedBook $book,
        private Slips $slips,
        private Chart $chart,
        private Settings $settings,
        private PeriodGate $periods,
        private ClockInterface $clock,
        #[AutowireIterator(GoodsCame::class)] private iterable $areas,
    ) {
    }

    /**
     * @param list<int> $orderLines that the delivery comes for
     *
     * @throws Refused for whoever entered the invoice, where the company keeps receiving and matching apart
     */
    public function arrive(Actor $actor, Delivery $delivery, array $orderLines): void
    {
        $waiting = $this->awaited->waitingFor($actor->companyId, $orderLines);
        if ([] === $waiting) {
            return;
        }
        $came = $this->accrued->ofDelivery($actor->companyId, $delivery->id());
        foreach (self::pairs($came, $waiting) as $documentId => $parts) {
            $this->apart($actor, $parts[0]->line);
            $this->settle($actor, $delivery, $parts);
            foreach ($this->areas as $area) {
                $area->came($actor, $documentId);
            }
        }
    }

    /** What a delivery settled waits again. */
    public function takeBackDelivery(Actor $actor, int $deliveryId, Day $day): void
    {
        foreach ($this->standing(['deliveryId' => $deliveryId]) as $slip) {
            $this->undo($actor, $slip, $day);
            foreach ($this->areas as $area) {
                $area->gone($actor, (int) $slip->documentId);
            }
        }
    }

    /** What came for an invoice is received and not invoiced again; what never came is not waited for any more. */
    public function takeBackDocument(Actor $actor, int $documentId, Day $day): void
    {
        foreach ($this->standing(['documentId' => $documentId]) as $slip) {
            $this->undo($actor, $slip, $day);
        }
    }

    /**
     * @param array<int, AccruedLine> $came
     * @param list<AwaitedLine> $waiting the oldest first
     *
     * @return array<int, non-empty-list<Arriving>> by document
     */
    private static function pairs(array $came, array $waiting): array
    {
        $pairs = [];
        $there = array_map(static fn (AccruedLine $l) => $l->left, $came);
        foreach ($waiting as $line) {
            $wants = $line->left;
            foreach ($came as $id => $goods) {
                $quantity = BigDecimal::min($wants->quantity, $there[$id]->quantity);
                if ($line->orderLine !== $goods->orderLine || !$quantity->isPositive()) {
                    continue;
                }
                $accrued = $there[$id]->take($quantity, $goods->price, Currency::of($goods->currency));
                $invoiced = $wants->share($quantity);
                $pairs[$line->documentId][] = new Arriving($line, $goods, $accrued, $invoiced);
                [$there[$id], $wants] = [$there[$id]->less($accrued), $wants->less($invoiced)];
            }
        }

        return $pairs;
    }

    /** @param non-empty-list<Arriving> $parts */
    private function settle(Actor $actor, Delivery $delivery, array $parts): void
    {
        $day = $this->periods->firstOpen(
            $actor->companyId,
            Day::latest(...array_map(static fn (Arriving $a): Day => $a->notBefore(), $parts)),
            [],
        );
        $slip = $this->slips->begin(
            new GoodsSlip(
                $actor->companyId,
                MoveKind::Arrived,
                $delivery->partyId,
                $day,
                '',
                array_sum(array_map(static fn (Arriving $a): int => $a->accrued->base, $parts)),
                $actor->userId,
                $this->clock->now(),
                $delivery->id(),
                $parts[0]->line->documentId,
            ),
        );
        $taken = $arrived = [];
        foreach ($parts as $a) {
            $taken[] = new Taken($a->goods->id, $a->accrued, $a->line->position, $a->line->variance);
            $arrived[] = [$a->line, $a->invoiced, $a->goods->id];
        }
        $this->goods->take($actor, MoveKind::Arrived, $taken, $day, $parts[0]->line->documentId, $slip->id());
        $this->book->arrive($arrived, $slip->id(), $day);
        $this->slips->post($actor, $slip, $this->entry($actor, $delivery, $parts));
    }

    /** @param non-empty-list<Arriving> $parts */
    private function entry(Actor $actor, Delivery $delivery, array $parts): JournalDraft
    {
        $exchange =
            $delivery->currency === $actor->baseCurrency
                ? null
                : $this->chart->role($actor->companyId, AccountRole::ExchangeRealised);

        return ArrivalEntry::draft(
            $delivery->partyId,
            $delivery->currency,
            array_map(
                static fn (Arriving $a): array => [
                    'received' => $a->goods->control,
                    'accrued' => $a->accrued,
                    'awaited' => $a->line->control,
                    'invoiced' => $a->invoiced,
                    'variance' => $a->line->variance,
                    'exchange' => $exchange ?? $a->line->variance,
                    'text' => $a->line->text,
                    'analysis' => $a->goods->analysis,
                ],
                $parts,
            ),
        );
    }

    /**
     * @param non-empty-array<string, int> $of
     *
     * @return list<GoodsSlip> under their locks
     */
    private function standing(array $of): array
    {
        $slips = $this->entities
            ->getRepository(GoodsSlip::class)
            ->findBy([...$of, 'undoneOn' => null], ['id' => 'ASC']);
        $standing = [];
        foreach ($slips as $slip) {
            $this->entities->refresh($slip, LockMode::PESSIMISTIC_WRITE);
            if (null === $slip->undoneOn) {
                $standing[] = $slip;
            }
        }

        return $standing;
    }

    /** Not before it was settled: what is taken back as of an earlier day is settled and taken back on the same. */
    private function undo(Actor $actor, GoodsSlip $slip, Day $day): void
    {
        $on = $this->periods->firstOpen($actor->companyId, Day::latest($day, $slip->movedOn), []);
        $this->slips->undo($actor, $slip, $on, '');
    }

    /** @throws Refused */
    private function apart(Actor $actor, AwaitedLine $line): void
    {
        if (
            $line->enteredBy === $actor->userId
            && 'yes' === $this->settings->of($actor->companyId)->values['match_apart']
        ) {
            throw Refused::because(
                '',
                \sprintf(
                    'You entered %s, which waits for these goods; somebody else records that they came.',
                    $line->document,
                ),
            );
        }
    }
}
