<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Nelbix\App\Goods\AwaitedBook;
use Nelbix\App\Goods\AwaitedLines;
use Nelbix\App\Goods\OrderedLine;
use Nelbix\App\Goods\OrderedLines;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Works out which ordered goods the lines of an invoice wait for. Reads, never writes. */
final readonly class AwaitGoods
{
    public function __construct(
        private OrderedLines $ordered,
        private AwaitedLines $awaited,
        private Chart $chart,
        private Settings $settings,
    ) {
    }

    /**
     * @return array<int, AwaitedGoods> under the keys of the lines
     *
     * @throws Refused for goods of another vendor or currency, an order that is closed, or more than is to come
     */
    public function of(Actor $actor, InvoiceInput $input): array
    {
        $ids = array_filter(array_map(static fn (LineInput $l): ?int => $l->orderLine, $input->lines));
        if ([] === $ids) {
            return [];
        }
        $ordered = $this->ordered->of($actor->companyId, array_values(array_unique($ids)));
        $waiting = $this->awaited->quantities(array_values(array_unique($ids)), $input->insteadOf);
        $lines = $problems = [];
        foreach ($ids as $k => $id) {
            $line = $input->lines[$k];
            if (null === $line->quantity) {
                continue; // said where it was read
            }
            try {
                $quantity = BigDecimal::of($line->quantity);
                self::fits($ordered[$id] ?? null, $input, $line, $k);
                self::isLeft($ordered[$id], $waiting[$id] ?? BigDecimal::zero(), $quantity, $k);
                $waiting[$id] = $quantity->plus($waiting[$id] ?? 0);
                $lines[$k] = $this->line($actor, $ordered[$id], $quantity, $line);
            } catch (Refused $e) {
                array_push($problems, ...$e->problems);
            }
        }
        if ([] !== $problems) {
            throw Refused::all($problems);
        }

        return $lines;
    }

    private function line(Actor $actor, OrderedLine $ordered, BigDecimal $quantity, LineInput $line): AwaitedGoods
    {
        $toLine = 'line' === $this->settings->of($actor->companyId)->values['price_variance'];

        return new AwaitedGoods(
            $ordered,
            $quantity,
            $this->chart->role($actor->companyId, AccountRole::InvoicedNotReceived),
            $toLine ? $line->accountId : $this->chart->role($actor->companyId, AccountRole::PriceVariance),
        );
    }

    /** @throws Refused */
    private static function fits(?OrderedLine $ordered, InvoiceInput $input, LineInput $line, int $k): void
    {
        if (DocumentKind::Invoice !== $input->kind || Side::Payables !== $input->side) {
            throw Refused::because(
                "lines.$k.amount",
                'Only a vendor’s invoice is matched with an order; take the match off this line.',
            );
        }
        if (null === $ordered || $ordered->partyId !== $input->partyId) {
            throw Refused::because(
                "lines.$k.amount",
                'This vendor has no such order; take the match off this line.',
                ProblemKind::Unknown,
            );
        }
        if ($ordered->currency !== $input->currency) {
            throw Refused::because(
                "lines.$k.amount",
                \sprintf('%s is in %s; the invoice that it belongs to is too.', $ordered->order, $ordered->currency),
            );
        }
        if ($line->amount <= 0 || !BigDecimal::of((string) $line->quantity)->isPositive()) {
            throw Refused::because(
                "lines.$k.amount",
                'What is waited for is above zero; take the match off this line.',
            );
        }
    }

    /** @throws Refused */
    private static function isLeft(OrderedLine $ordered, BigDecimal $waiting, BigDecimal $quantity, int $k): void
    {
        $left = AwaitedBook::leftOf($ordered, $waiting);
        if (!$quantity->isGreaterThan($left)) {
            return;
        }
        throw Refused::because(
            "lines.$k.amount",
            match (true) {
                !$ordered->mayCome() => \sprintf(
                    '%s is %s; nothing comes for it. Take the match off this line.',
                    $ordered->order,
                    $ordered->closed ? 'closed' : 'not approved',
                ),
                $left->isPositive() => \sprintf(
                    'Of “%s” only %s are still to come and not invoiced; lower the quantity, and match the rest with what was delivered.',
                    $ordered->text,
                    $left,
                ),
                default => \sprintf(
                    'Of “%s” nothing is still to come that is not invoiced; match it with what was delivered.',
                    $ordered->text,
                ),
            },
            ProblemKind::TooMuch,
        );
    }
}
