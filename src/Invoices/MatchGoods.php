<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Nelbix\App\Goods\AccruedLine;
use Nelbix\App\Goods\AccruedLines;
use Nelbix\App\Goods\TakenOf;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Cleared;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Matching\Accrued;
use Nelbix\Core\Matching\MoreThanThere;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Works out which delivered goods the lines of an invoice take, and what that clears. Reads, never writes. */
final readonly class MatchGoods
{
    public function __construct(
        private AccruedLines $goods,
        private TakenOf $takenOf,
        private Chart $chart,
        private Settings $settings,
    ) {
    }

    /**
     * @return array<int, MatchedLine> under the keys of the lines
     *
     * @throws Refused for goods of another vendor or currency, more than is left, or goods that came after the posting date
     */
    public function of(Actor $actor, InvoiceInput $input, Day $posting): array
    {
        $ids = array_filter(array_map(static fn (LineInput $l): ?int => $l->deliveryLine, $input->lines));
        if ([] === $ids) {
            return [];
        }
        $goods = $this->goods->of($actor->companyId, array_values(array_unique($ids)));
        $back = null === $input->insteadOf ? [] : $this->takenOf->document($actor->companyId, $input->insteadOf);
        $matched = $left = $problems = [];
        foreach ($ids as $k => $id) {
            $line = $input->lines[$k];
            if (null === $line->quantity) {
                continue; // said where it was read
            }
            try {
                $found = $goods[$id] ?? throw self::unknown($k);
                self::fits($found, $input, $posting, $k);
                $this->apart($actor, $found, $k);
                $there = $left[$id] ?? self::there($found, $back[$id] ?? null);
                $part = self::take($found, $there, BigDecimal::of($line->quantity), $k);
                $left[$id] = $there->less($part);
                $matched[$k] = new MatchedLine(
                    $found,
                    $part,
                    $this->cleared($actor, $input, $found, $part, $line->accountId),
                );
            } catch (Refused $e) {
                array_push($problems, ...$e->problems);
            }
        }
        if ([] !== $problems) {
            throw Refused::all($problems);
        }

        return $matched;
    }

    private function cleared(
        Actor $actor,
        InvoiceInput $input,
        AccruedLine $goods,
        Accrued $part,
        int $account,
    ): Cleared {
        $toLine = 'line' === $this->settings->of($actor->companyId)->values['price_variance'];

        return new Cleared(
            $goods->control,
            $part->amount,
            $part->base,
            $toLine ? $account : $this->chart->role($actor->companyId, AccountRole::PriceVariance),
            $input->currency === $actor->baseCurrency
                ? $account
                : $this->chart->role($actor->companyId, AccountRole::ExchangeRealised),
        );
    }

    /** @throws Refused for the one who received them, where the company keeps the two apart */
    private function apart(Actor $actor, AccruedLine $goods, int $k): void
    {
        if (
            $goods->receivedBy === $actor->userId
            && 'yes' === $this->settings->of($actor->companyId)->values['match_apart']
        ) {
            throw Refused::because(
                "lines.$k.amount",
                \sprintf('You received %s; somebody else matches its invoice.', $goods->delivery),
            );
        }
    }

    /** What is left, and what comes back of the document that is put right. */
    private static function there(AccruedLine $goods, ?Accrued $back): Accrued
    {
        return null === $back
            ? $goods->left
            : new Accrued(
                $goods->left->quantity->plus($back->quantity),
                $goods->left->amount + $back->amount,
                $goods->left->base + $back->base,
            );
    }

    /** @throws Refused */
    private static function fits(AccruedLine $goods, InvoiceInput $input, Day $posting, int $k): void
    {
        if (DocumentKind::Invoice !== $input->kind || Side::Payables !== $input->side) {
            throw Refused::because(
                "lines.$k.amount",
                'Only a vendor’s invoice is matched with a delivery; take the match off this line.',
            );
        }
        if ($goods->partyId !== $input->partyId || $goods->reversed) {
            throw $goods->reversed
                ? Refused::because(
                    "lines.$k.amount",
                    \sprintf('%s is taken back; take the match off this line.', $goods->delivery),
                )
                : self::unknown($k);
        }
        if ($goods->currency !== $input->currency) {
            throw Refused::because(
                "lines.$k.amount",
                \sprintf('%s is in %s; the invoice that it belongs to is too.', $goods->delivery, $goods->currency),
            );
        }
        $from = null === $goods->notBefore ? $goods->deliveredOn : Day::latest($goods->deliveredOn, $goods->notBefore);
        if ($posting->isBefore($from)) {
            throw Refused::because(
                'posting_date',
                \sprintf(
                    'Of %s nothing can be taken before %s; post it on that day or later.',
                    $goods->delivery,
                    $from->long(),
                ),
            );
        }
    }

    /** @throws Refused */
    private static function take(AccruedLine $goods, Accrued $there, BigDecimal $quantity, int $k): Accrued
    {
        try {
            return $there->take($quantity, $goods->price, Currency::of($goods->currency));
        } catch (MoreThanThere $e) {
            throw Refused::all([
                new Problem(
                    "lines.$k.amount",
                    \sprintf(
                        'Of %s, %s only %s are left to be invoiced; lower the quantity, and enter what was not received as its own line.',
                        $goods->delivery,
                        '' === $goods->text ? 'this line,' : '“'.$goods->text.'”,',
                        $e->there->stripTrailingZeros(),
                    ),
                    null,
                    ProblemKind::TooMuch,
                ),
            ]);
        }
    }

    private static function unknown(int $k): Refused
    {
        return Refused::because(
            "lines.$k.amount",
            'This vendor has no such delivery; take the match off this line.',
            ProblemKind::Unknown,
        );
    }
}
