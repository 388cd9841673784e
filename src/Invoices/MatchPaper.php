<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Nelbix\App\Goods\FindGoods;
use Nelbix\App\Goods\FoundGoods;
use Nelbix\App\Goods\GoodsPool;
use Nelbix\App\Goods\WantedGoods;
use Nelbix\Core\Formats\Ubl\ElectronicInvoice;
use Nelbix\Core\Formats\Ubl\ElectronicLine;
use Nelbix\Core\Money\PricedAmount;

/** Matches the lines of an electronic invoice that names an order or a delivery note, and says what it matched and what not. */
final readonly class MatchPaper
{
    public function __construct(private FindGoods $find)
    {
    }

    /**
     * @param list<array<string, string>> $lines of the draft, those of the paper first, in its order
     * @param list<string> $said what the clerk should know of what is not matched
     * @param list<string> $done what is matched
     *
     * @return list<array<string, string>> one that is of several deliveries becomes several
     */
    public function lines(
        int $companyId,
        int $partyId,
        ElectronicInvoice $invoice,
        array $lines,
        array &$said,
        array &$done,
    ): array {
        if ($invoice->isCredit || ('' === $invoice->order && '' === $invoice->deliveryNote)) {
            return $lines;
        }
        $pool = $this->find->pool($companyId, $partyId, $invoice->currency, [$invoice->order, $invoice->deliveryNote]);
        $matched = [];
        $hits = 0;
        foreach ($lines as $k => $line) {
            $of = $invoice->lines[$k] ?? null;
            $parts = null === $of ? [] : $this->parts($pool, $invoice, $of, $line, $said, $done);
            $hits += (int) ([] !== $parts);
            array_push($matched, ...[] === $parts ? [$line] : $parts);
        }
        if (0 === $hits) {
            $said[] = \sprintf(
                'It names %s, of which nothing fits that was delivered or is to come; match it by hand.',
                implode(' and ', array_filter([$invoice->order, $invoice->deliveryNote])),
            );
        }

        return $matched;
    }

    /**
     * @param array<string, string> $line
     * @param list<string> $said
     * @param list<string> $done
     *
     * @return list<array<string, string>> empty when it is not clear what is meant
     */
    private function parts(
        GoodsPool $pool,
        ElectronicInvoice $invoice,
        ElectronicLine $of,
        array $line,
        array &$said,
        array &$done,
    ): array {
        $price = $of->price;
        if (
            null === $of->quantity
            || !$of->quantity->isPositive()
            || null === $price
            || !str_contains($line['amount'], '×')
        ) {
            $said[] = \sprintf('“%s” has no quantity and price that make its amount; match it by hand.', $of->text);

            return [];
        }
        $position = 1 === preg_match('/\A\d{1,4}\z/', $of->orderLine) ? (int) $of->orderLine : null;
        $found = $pool->take(
            new WantedGoods($invoice->order, $invoice->deliveryNote, $position, $of->text, $of->quantity, $price),
        );
        if ([] === $found) {
            $said[] = \sprintf('“%s” is not matched.', $of->text);

            return [];
        }
        [$parts, $words] = self::split($found, $of, $price, $line, $invoice->currency);
        $done[] = \sprintf('“%s” is matched: %s.', $of->text, implode(', ', $words));

        return $parts;
    }

    /**
     * @param non-empty-list<FoundGoods> $found
     * @param array<string, string> $line
     *
     * @return array{list<array<string, string>>, list<string>} a line for each delivery or order, and one for what is left; and in words
     */
    private static function split(
        array $found,
        ElectronicLine $of,
        BigDecimal $price,
        array $line,
        string $currency,
    ): array {
        $parts = $words = [];
        $rest = $of->quantity ?? BigDecimal::zero();
        $allowance = $of->allowance;
        foreach ($found as $part) {
            $parts[] = [
                ...$line,
                ...$part->fields(),
                'amount' => self::typed($part->quantity, $price, $allowance, $currency),
            ];
            $allowance = 0;
            $rest = $rest->minus($part->quantity);
            $words[] = $part->quantity.' with '.$part->words();
        }
        if ($rest->isPositive()) {
            $parts[] = [...$line, 'amount' => self::typed($rest, $price, 0, $currency)];
            $words[] = $rest->stripTrailingZeros().' with nothing';
        }

        return [$parts, $words];
    }

    private static function typed(BigDecimal $quantity, BigDecimal $price, int $allowance, string $currency): string
    {
        return PricedAmount::typed(
            (string) $quantity->stripTrailingZeros(),
            (string) $price->stripTrailingZeros(),
            $allowance,
            $currency,
        );
    }
}
