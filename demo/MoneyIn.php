<?php

declare(strict_types=1);

namespace Nelbix\Demo;

use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Settlement\AdjustmentKind;

/**
 * What the demo's customers buy and how they pay: most within three weeks of the due date, a handful slowly, two badly.
 *
 * @phpstan-import-type DemoParty from Acts
 */
final readonly class MoneyIn
{
    /** Customers, counted from 0, who pay two to six weeks late. */
    private const SLOW = [4, 12, 19, 33, 47, 52, 70];

    /** Those who pay after months. */
    private const BAD = [14, 41];

    public function __construct(private Acts $acts)
    {
    }

    public function plan(Actor $actor, Day $start, int $days, int $count): void
    {
        $customers = Group::others($this->acts->parties($actor, Side::Receivables));
        for ($n = 0; $n < $count; ++$n) {
            $k = min(mt_rand(0, \count($customers) - 1), mt_rand(0, \count($customers) - 1));
            $customer = $customers[$k];
            $day = $start->plusDays(mt_rand(0, $days));
            $amount = mt_rand(0, 13) > 0 ? mt_rand(12_000, 720_000) : mt_rand(1_500_000, 4_200_000);
            $kind = 0 === mt_rand(0, 30) ? 'credit_note' : 'invoice';
            $raw = $this->acts->invoice(
                $customer,
                $day,
                'credit_note' === $kind ? intdiv($amount, 20) : $amount,
                $kind,
                '',
                \sprintf(Names::WORK[$n % 10], Names::BOATS[$n % 12]),
                'S8',
            );
            $habit = mt_rand(0, 99);
            $this->acts->on($day, function () use ($actor, $raw, $customer, $habit, $day, $k): void {
                $id = $this->acts->post($actor, Side::Receivables, $raw);
                if ('credit_note' === $raw['kind']) {
                    $this->acts->setOffLater($actor, Side::Receivables, $id, $day->plusDays(6 + ($habit % 10)));
                } else {
                    $this->receiveLater($actor, $id, $customer, $habit, $day, $k);
                }
            });
        }
    }

    /** @param DemoParty $customer */
    private function receiveLater(Actor $actor, int $document, array $customer, int $habit, Day $day, int $k): void
    {
        $item = $this->acts->items($document, $day)[0] ?? null;
        if (null === $item || $item['open'] <= 0) {
            return;
        }
        $on = match (true) {
            \in_array($k, self::BAD, true) => $item['due']->plusDays(mt_rand(80, 230)),
            \in_array($k, self::SLOW, true) => $item['due']->plusDays(mt_rand(14, 42)),
            $habit < 25 => $day->plusDays(mt_rand(3, 9)),
            default => $item['due']->plusDays(min(mt_rand(-4, 20), mt_rand(-4, 20))),
        };
        $on = Day::latest($day->plusDays(1), $on);
        $this->acts->on($on, function () use ($actor, $document, $customer, $habit, $on): void {
            $this->receive($actor, $document, $customer, $habit, $on);
        });
    }

    /** @param DemoParty $customer */
    private function receive(Actor $actor, int $document, array $customer, int $habit, Day $on): void
    {
        $item = $this->acts->items($document, $on)[0] ?? null;
        if (null === $item) {
            return;
        }
        $discount = $item['discount'];
        $applied = $item['open'];
        if (0 === $habit % 13) {
            // a part, and the rest some weeks later
            [$applied, $discount] = [intdiv($applied * 3, 5), 0];
            $rest = $on->plusDays(21 + ($habit % 15));
            $this->acts->on(
                $rest,
                fn () => $this->acts->inFull($actor, Side::Receivables, $document, $customer, $rest, 'R-'.$document),
            );
        }
        // the last weeks' oddities are not cleared up yet: nobody knows what it is for, or it is too much
        $fresh = $on->isAfter($this->acts->end->plusDays(-75));
        $placed = !$fresh || 0 !== $habit % 17;
        $more = $fresh && 0 === $habit % 29 ? 1_000 + 137 * $habit : 0;
        $this->acts->money(
            $actor,
            Side::Receivables,
            DocumentKind::Receipt,
            $customer,
            $on,
            $applied - $discount + $more,
            $placed ? [new PlacementRequest($item['id'], $applied)] : [],
            $placed && $discount > 0 ? [new AdjustmentRequest($item['id'], AdjustmentKind::Discount, -$discount)] : [],
            'T-'.$document,
        );
    }
}
