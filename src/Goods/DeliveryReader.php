<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Fields;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\UnitCode;
use Nelbix\Core\Ledger\Analysis;
use Nelbix\Core\Ledger\DeliveryEntry;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Reads what came, from the form. */
final readonly class DeliveryReader
{
    public const MAX_LINES = 100;

    public function __construct(
        private Lookup $lookup,
        private CodeBook $codes,
        private Chart $chart,
        private BooksDay $booksDay,
        private OrderedLines $ordered,
    ) {
    }

    /**
     * @param array<mixed> $raw party, delivered_on, note_number, remark, lines[] (order_line, account, text, quantity, unit,
     *                          price, cost_center, department, project); what a line leaves empty is as the order has it
     * @param bool $file true reads ISO dates, as files have them
     */
    public function read(Actor $actor, array $raw, bool $file = false): DeliveryInput
    {
        $problems = new ProblemList();
        $text = (new Fields($raw))->text(...);
        $rows = self::rows($raw);
        if (\count($rows) > self::MAX_LINES) {
            $problems->add(
                'lines',
                \sprintf('A delivery has at most %d lines; record the rest as another.', self::MAX_LINES),
            );
        }
        $rows = \array_slice($rows, 0, self::MAX_LINES, true);
        $ordered = $this->ordered->of($actor->companyId, self::orderLines($rows));
        $first = [] === $ordered ? null : $ordered[array_key_first($ordered)];
        $code = '' === $text('party') && null !== $first ? $first->vendorCode : mb_substr($text('party'), 0, 20);
        $party = $problems->attempt(fn () => $this->lookup->party($actor->companyId, Side::Payables, $code));
        $day = $this->day($actor, $text('delivered_on'), $file, $problems);
        foreach (['note_number' => 60, 'remark' => 255] as $field => $most) {
            if (mb_strlen($text($field)) > $most) {
                $problems->add($field, \sprintf('This is longer than %d characters; shorten it.', $most));
            }
        }
        $currency = Currency::of($first->currency ?? ($party->currency ?? $actor->baseCurrency));
        $lines = [];
        foreach ($rows as $k => $row) {
            $read = $this->line($actor, $row, $k, $party, $currency, $ordered, $problems);
            if (null !== $read) {
                $lines[$k] = $read;
            }
        }
        if (
            [] === $lines
            && [] === array_filter($problems->all, static fn ($p): bool => str_starts_with($p->field, 'lines'))
        ) {
            $problems->add(
                'lines.0.quantity',
                'There is no line with a quantity; enter at least one.',
                ProblemKind::Missing,
            );
        }

        return new DeliveryInput(
            $party,
            $day,
            mb_substr($text('note_number'), 0, 60),
            $currency->code,
            $lines,
            $problems->all,
            mb_substr($text('remark'), 0, 255),
        );
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array<int, array<mixed>> the form's rows under their index
     */
    private static function rows(array $raw): array
    {
        $rows = [];
        $lines = \is_array($raw['lines'] ?? null) ? $raw['lines'] : [];
        foreach ($lines as $k => $row) {
            $fields = new Fields(\is_array($row) ? $row : []);
            // lines of orders that nothing came for stand in the form too
            if ('' === $fields->text('order_line') || '' !== $fields->text('quantity')) {
                $rows[(int) $k] = \is_array($row) ? $row : [];
            }
        }

        return $rows;
    }

    /**
     * @param array<int, array<mixed>> $rows
     *
     * @return list<int> of the order lines that something came for
     */
    private static function orderLines(array $rows): array
    {
        return array_values(
            array_filter(array_map(static fn (array $r): int => (int) (new Fields($r))->text('order_line'), $rows)),
        );
    }

    private function day(Actor $actor, string $typed, bool $file, ProblemList $problems): ?Day
    {
        if ('' === $typed) {
            $problems->add('delivered_on', 'The day of the delivery is missing.', ProblemKind::Missing);

            return null;
        }
        $day = $problems->attempt(
            fn (): Day => $file
                ? Day::of($typed, 'delivered_on')
                : $this->booksDay->input($actor->companyId)->read($typed, 'delivered_on'),
        );
        if (null !== $day && $day->isAfter($this->booksDay->of($actor->companyId))) {
            $problems->add('delivered_on', 'That day is still to come; say when it came.');
        }

        return $day;
    }

    /**
     * @param array<mixed> $raw
     * @param array<int, OrderedLine> $orders by id
     */
    private function line(
        Actor $actor,
        array $raw,
        int $k,
        ?Party $party,
        Currency $currency,
        array $orders,
        ProblemList $problems,
    ): ?DeliveredLine {
        $text = (new Fields($raw))->text(...);
        $field = static fn (string $key): string => \sprintf('lines.%d.%s', $k, $key);
        $ordered = $orders[(int) $text('order_line')] ?? null;
        if (
            '' === $text('quantity')
            && ('' !== $text('order_line') || ('' === $text('price') && '' === $text('text')))
        ) {
            return null;
        }
        if ('' !== $text('order_line') && null === $ordered) {
            $problems->add(
                $field('order_line'),
                'There is no such line of an order; load the page anew.',
                ProblemKind::Unknown,
            );
        }
        if (null !== $ordered && null !== $party && $ordered->partyId !== $party->id()) {
            $problems->add(
                $field('order_line'),
                \sprintf(
                    '%s is an order of %s; record what another vendor brought as a delivery of its own.',
                    $ordered->order,
                    $ordered->vendor,
                ),
            );
        }
        if (null !== $ordered && $ordered->currency !== $currency->code) {
            $problems->add(
                $field('order_line'),
                \sprintf('%s is in %s; record it as a delivery of its own.', $ordered->order, $ordered->currency),
            );
        }
        $default = $ordered->account ?? $party?->defaultAccountId;
        $account = $problems->attempt(
            fn (): int => '' === $text('account') && null !== $default
                ? $default
                : $this->chart->ofLine($actor->companyId, $text('account'), $field('account')),
        );
        $quantity = $problems->attempt(
            static fn (): BigDecimal => self::number($text('quantity'), 4, 'quantity', $field('quantity')),
        );
        $price =
            '' === $text('price') && null !== $ordered
                ? $ordered->price
                : $problems->attempt(
                    static fn (): BigDecimal => self::number($text('price'), 6, 'price', $field('price')),
                );
        $unit = $problems->attempt(
            static fn (): string => null !== $ordered && '' === $text('unit')
                ? $ordered->unit
                : UnitCode::read($text('unit'), $field('unit')),
        );
        if (mb_strlen($text('text')) > 255) {
            $problems->add($field('text'), 'This is longer than 255 characters; shorten it.');
        }
        $analysis = $this->analysis($actor, $text, $field, $ordered, $problems);

        return null === $account || null === $quantity || null === $price || null === $unit
            ? null
            : new DeliveredLine(
                $account,
                '' === $text('text') && null !== $ordered ? $ordered->text : mb_substr($text('text'), 0, 255),
                $quantity,
                $price,
                DeliveryEntry::value($quantity, $price, $currency),
                $analysis,
                $unit,
                $ordered,
            );
    }

    /**
     * @param \Closure(string): string $text
     * @param \Closure(string): string $field
     */
    private function analysis(
        Actor $actor,
        \Closure $text,
        \Closure $field,
        ?OrderedLine $ordered,
        ProblemList $problems,
    ): Analysis {
        $analysis = [];
        foreach (['cost_center', 'department', 'project'] as $kind) {
            $code = '' === $text($kind) && null !== $ordered ? $ordered->codes[$kind] : $text($kind);
            $analysis[] = $problems->attempt(
                fn (): ?int => $this->codes->analysis($actor->companyId, $kind, $code, $field($kind)),
            );
        }

        return new Analysis(...$analysis);
    }

    /** @throws Refused naming the field */
    public static function number(string $typed, int $scale, string $word, string $field): BigDecimal
    {
        $plain = str_replace(',', '', $typed);
        $is = 1 === preg_match('/\A\d{1,9}(\.\d{1,'.$scale.'})?\z/', $plain) && !BigDecimal::of($plain)->isZero();

        return $is
            ? BigDecimal::of($plain)
            : throw Refused::because(
                $field,
                '' === $typed
                    ? \sprintf('The %s is missing.', $word)
                    : \sprintf(
                        '“%s” is not a %s; write a number above zero with at most %d decimals.',
                        mb_strimwidth($typed, 0, 30, '…'),
                        $word,
                        $scale,
                    ),
                ProblemKind::Missing,
            );
    }
}
