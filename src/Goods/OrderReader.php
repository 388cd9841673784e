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

/** Reads an order from the strings of a form or of a file. */
final readonly class OrderReader
{
    public const MAX_LINES = 200;

    /** The fields of a line. */
    public const EMPTY = [
        'id' => '',
        'kind' => '',
        'account' => '',
        'text' => '',
        'quantity' => '',
        'unit' => '',
        'price' => '',
        'tax_code' => '',
        'cost_center' => '',
        'department' => '',
        'project' => '',
    ];

    private const LONGEST = ['number' => 30, 'note' => 255];

    public function __construct(
        private Lookup $lookup,
        private CodeBook $codes,
        private Chart $chart,
        private BooksDay $booksDay,
    ) {
    }

    /**
     * @param array<mixed> $raw party, number, ordered_on, wanted_by, currency, note, lines[] (id, kind, account, text, quantity, unit,
     *                          price, tax_code, cost_center, department, project, wanted_by)
     * @param bool $file true reads ISO dates, as files have them
     */
    public function read(Actor $actor, array $raw, bool $file = false): OrderInput
    {
        $problems = new ProblemList();
        $text = (new Fields($raw))->text(...);
        foreach (self::LONGEST as $field => $most) {
            if (mb_strlen($text($field)) > $most) {
                $problems->add($field, \sprintf('This is longer than %d characters; shorten it.', $most));
            }
        }
        $party = $problems->attempt(
            fn () => $this->lookup->party($actor->companyId, Side::Payables, mb_substr($text('party'), 0, 120)),
        );
        $ordered =
            '' === $text('ordered_on')
                ? $this->booksDay->of($actor->companyId)
                : $this->day($actor, $text('ordered_on'), 'ordered_on', $file, $problems);
        $wanted =
            '' === $text('wanted_by') ? null : $this->day($actor, $text('wanted_by'), 'wanted_by', $file, $problems);
        if (null !== $wanted && null !== $ordered && $wanted->isBefore($ordered)) {
            $problems->add('wanted_by', \sprintf('It is ordered on %s; it cannot be wanted before.', $ordered->long()));
        }
        $typed = '' === $text('currency') ? $party->currency ?? $actor->baseCurrency : $text('currency');
        $currency =
            $problems->attempt(static fn (): Currency => Currency::of($typed)) ?? Currency::of($actor->baseCurrency);
        $lines = [];
        $rows = \is_array($raw['lines'] ?? null) ? $raw['lines'] : [];
        if (\count($rows) > self::MAX_LINES) {
            $problems->add('lines', \sprintf('An order has at most %d lines; split it.', self::MAX_LINES));
        }
        foreach (\array_slice($rows, 0, self::MAX_LINES, true) as $k => $row) {
            $line = $this->line($actor, \is_array($row) ? $row : [], (int) $k, $party, $currency, $file, $problems);
            if (null !== $line) {
                $lines[(int) $k] = $line;
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

        return new OrderInput(
            $party,
            mb_substr($text('number'), 0, 30),
            $ordered,
            $wanted,
            $currency->code,
            mb_substr($text('note'), 0, 255),
            $lines,
            $problems->all,
        );
    }

    private function day(Actor $actor, string $typed, string $field, bool $file, ProblemList $problems): ?Day
    {
        return $problems->attempt(
            fn (): Day => $file
                ? Day::of($typed, $field)
                : $this->booksDay->input($actor->companyId)->read($typed, $field),
        );
    }

    /** @param array<mixed> $raw */
    private function line(
        Actor $actor,
        array $raw,
        int $k,
        ?Party $party,
        Currency $currency,
        bool $file,
        ProblemList $problems,
    ): ?OrderLineInput {
        $text = (new Fields($raw))->text(...);
        $field = static fn (string $key): string => \sprintf('lines.%d.%s', $k, $key);
        if ('' === $text('quantity') && '' === $text('price') && '' === $text('text')) {
            return null;
        }
        if ('' === $text('text')) {
            $problems->add(
                $field('text'),
                'Say what is ordered; the vendor and the receiver read it.',
                ProblemKind::Missing,
            );
        }
        if (mb_strlen($text('text')) > 255) {
            $problems->add($field('text'), 'This is longer than 255 characters; shorten it.');
        }
        if (!\in_array($text('kind'), ['', 'goods', 'service'], true)) {
            $problems->add($field('kind'), 'A line is goods or service.');
        }
        $default = $party?->defaultAccountId;
        $account = $problems->attempt(
            fn (): int => '' === $text('account') && null !== $default
                ? $default
                : $this->chart->ofLine($actor->companyId, $text('account'), $field('account')),
        );
        $quantity = $problems->attempt(
            static fn (): BigDecimal => DeliveryReader::number($text('quantity'), 4, 'quantity', $field('quantity')),
        );
        $price = $problems->attempt(
            static fn (): BigDecimal => DeliveryReader::number($text('price'), 6, 'price', $field('price')),
        );
        $unit = $problems->attempt(static fn (): string => UnitCode::read($text('unit'), $field('unit')));
        $tax = $problems->attempt(
            fn () => $this->codes->taxCode($actor->companyId, Side::Payables, $text('tax_code'), $field('tax_code')),
        );
        $analysis = [];
        foreach (['cost_center', 'department', 'project'] as $kind) {
            $analysis[] = $problems->attempt(
                fn (): ?int => $this->codes->analysis($actor->companyId, $kind, $text($kind), $field($kind)),
            );
        }
        $wanted =
            '' === $text('wanted_by')
                ? null
                : $this->day($actor, $text('wanted_by'), $field('wanted_by'), $file, $problems);

        return null === $account || null === $quantity || null === $price || null === $unit
            ? null
            : new OrderLineInput(
                (int) $text('id') ?: null,
                'service' === $text('kind'),
                $account,
                mb_substr($text('text'), 0, 255),
                $quantity,
                $unit,
                $price,
                DeliveryEntry::value($quantity, $price, $currency),
                $tax?->id(),
                new Analysis(...$analysis),
                $wanted,
            );
    }
}
