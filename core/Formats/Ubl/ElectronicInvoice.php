<?php

declare(strict_types=1);

namespace Nelbix\Core\Formats\Ubl;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\Rounding;
use Nelbix\Core\Refused;

/** An invoice or credit note as EN 16931 has it, whatever the syntax. Amounts in minor units of the currency, positive for both kinds. */
final readonly class ElectronicInvoice
{
    private const MOST_LINES = 500;

    /**
     * @param list<ElectronicLine> $lines
     * @param list<ElectronicLine> $others allowances (negative) and charges
     *                                     on the whole document
     * @param list<array{category: string, percent: BigDecimal, taxable: int, tax: int}> $taxes
     * @param list<array{name: string, mediaType: string, content: string}> $attachments
     * @param int $prepaid paid already
     * @param string $order the buyer's order (BT-13)
     * @param string $deliveryNote the despatch advice (BT-16)
     */
    public function __construct(
        public string $number,
        public bool $isCredit,
        public Day $date,
        public ?Day $due,
        public string $currency,
        public ElectronicParty $seller,
        public ElectronicParty $buyer,
        public array $lines,
        public array $others,
        public array $taxes,
        public int $prepaid = 0,
        public string $terms = '',
        public string $reference = '',
        public string $note = '',
        public string $iban = '',
        public string $paymentReference = '',
        public string $against = '',
        public array $attachments = [],
        public string $order = '',
        public string $deliveryNote = '',
    ) {
    }

    public function lineNet(): int
    {
        return array_sum(array_map(static fn (ElectronicLine $l): int => $l->net, $this->lines));
    }

    public function net(): int
    {
        return $this->lineNet() + array_sum(array_map(static fn (ElectronicLine $l): int => $l->net, $this->others));
    }

    public function tax(): int
    {
        return array_sum(array_column($this->taxes, 'tax'));
    }

    public function total(): int
    {
        return $this->net() + $this->tax();
    }

    /**
     * Compares what the file states with what its parts add up to (BR-CO-10, BR-CO-13, BR-CO-15, BR-CO-16, BR-CO-17).
     *
     * @param array{lineNet: int, net: int, total: int, payable: int, rounding: int} $stated minor units
     *
     * @throws Refused naming every figure that is wrong
     */
    public function check(array $stated): void
    {
        if ([] === $this->lines || \count($this->lines) > self::MOST_LINES) {
            throw Refused::because(
                'file',
                [] === $this->lines
                    ? 'The invoice has no line.'
                    : \sprintf(
                        'The invoice has %d lines; at most %d can be taken.',
                        \count($this->lines),
                        self::MOST_LINES,
                    ),
            );
        }
        $problems = new \Nelbix\Core\ProblemList();
        $say = fn (int $minor): string => Money::of($minor, $this->currency)->decimal();
        foreach (
            [
                'lineNet' => ['the sum of the lines', $this->lineNet()],
                'net' => ['the total without tax', $this->net()],
                'total' => ['the total with tax', $this->total()],
                'payable' => ['the amount to pay', $this->total() - $this->prepaid + $stated['rounding']],
            ] as $key => [$word, $figure]
        ) {
            if ($stated[$key] !== $figure) {
                $problems->add(
                    'file',
                    \sprintf(
                        'The file says %s is %s, but its parts add up to %s; ask the sender for a right one.',
                        $word,
                        $say($stated[$key]),
                        $say($figure),
                    ),
                );
            }
        }
        $taxable = [];
        foreach ([...$this->lines, ...$this->others] as $line) {
            $key = $line->category.' '.$line->percent->stripTrailingZeros();
            $taxable[$key] = ($taxable[$key] ?? 0) + $line->net;
        }
        foreach ($this->taxes as $t) {
            $key = $t['category'].' '.$t['percent']->stripTrailingZeros();
            if (($taxable[$key] ?? 0) !== $t['taxable']) {
                $problems->add(
                    'file',
                    \sprintf(
                        'The file taxes %s at %s %%, but its lines at that rate add up to %s; ask the sender for a right one.',
                        $say($t['taxable']),
                        $t['percent']->stripTrailingZeros(),
                        $say($taxable[$key] ?? 0),
                    ),
                );
            } elseif (abs(Rounding::percent($t['taxable'], $t['percent']) - $t['tax']) > 1) {
                $problems->add(
                    'file',
                    \sprintf(
                        'The file has %s tax on %s at %s %%, which is %s; ask the sender for a right one.',
                        $say($t['tax']),
                        $say($t['taxable']),
                        $t['percent']->stripTrailingZeros(),
                        $say(Rounding::percent($t['taxable'], $t['percent'])),
                    ),
                );
            }
        }
        $problems->refuse();
    }
}
