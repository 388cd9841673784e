<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Fields;
use Nelbix\Core\Calendar\Day;
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
    ) {
    }

    /**
     * @param array<mixed> $raw party, delivered_on, note_number, lines[] (account, text, quantity, price, cost_center, department,
     *                          project)
     */
    public function read(Actor $actor, array $raw): DeliveryInput
    {
        $problems = new ProblemList();
        $text = (new Fields($raw))->text(...);
        $party = $problems->attempt(
            fn () => $this->lookup->party($actor->companyId, Side::Payables, mb_substr($text('party'), 0, 20)),
        );
        $day =
            '' === $text('delivered_on')
                ? null
                : $problems->attempt(
                    fn (): Day => $this->booksDay->input($actor->companyId)->read($text('delivered_on'), 'delivered_on'),
                );
        if ('' === $text('delivered_on')) {
            $problems->add('delivered_on', 'The day of the delivery is missing.', ProblemKind::Missing);
        }
        if (mb_strlen($text('note_number')) > 60) {
            $problems->add('note_number', 'This is longer than 60 characters; shorten it.');
        }
        $currency = Currency::of($party->currency ?? $actor->baseCurrency);
        $lines = [];
        foreach (
            \array_slice(\is_array($raw['lines'] ?? null) ? $raw['lines'] : [], 0, self::MAX_LINES, true) as $k => $line
        ) {
            $read = $this->line(
                $actor,
                \is_array($line) ? $line : [],
                (int) $k,
                $party?->defaultAccountId,
                $currency,
                $problems,
            );
            $lines = null === $read ? $lines : [...$lines, $read];
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
        );
    }

    /**
     * @param array<mixed> $raw
     *
     * @return array{account: int, text: string, quantity: BigDecimal, price: BigDecimal, amount: int, analysis: Analysis}|null
     */
    private function line(
        Actor $actor,
        array $raw,
        int $k,
        ?int $default,
        Currency $currency,
        ProblemList $problems,
    ): ?array {
        $text = (new Fields($raw))->text(...);
        $field = static fn (string $key): string => \sprintf('lines.%d.%s', $k, $key);
        if ('' === $text('quantity') && '' === $text('price') && '' === $text('text')) {
            return null;
        }
        $account = $problems->attempt(
            fn (): int => '' === $text('account') && null !== $default
                ? $default
                : $this->chart->ofLine($actor->companyId, $text('account'), $field('account')),
        );
        $number = static fn (string $key, int $scale, string $word): ?BigDecimal => $problems->attempt(
            static fn (): BigDecimal => 1 ===
                preg_match('/\A\d{1,9}(\.\d{1,'.$scale.'})?\z/', str_replace(',', '', $text($key)))
            && !BigDecimal::of(str_replace(',', '', $text($key)))->isZero()
                ? BigDecimal::of(str_replace(',', '', $text($key)))
                : throw Refused::because(
                    $field($key),
                    '' === $text($key)
                        ? \sprintf('The %s is missing.', $word)
                        : \sprintf(
                            '“%s” is not a %s; write a number above zero with at most %d decimals.',
                            mb_strimwidth($text($key), 0, 30, '…'),
                            $word,
                            $scale,
                        ),
                    ProblemKind::Missing,
                ),
        );
        $quantity = $number('quantity', 4, 'quantity');
        $price = $number('price', 6, 'price');
        $analysis = [];
        foreach (['cost_center', 'department', 'project'] as $kind) {
            $analysis[] = $problems->attempt(
                fn (): ?int => $this->codes->analysis($actor->companyId, $kind, $text($kind), $field($kind)),
            );
        }
        if (mb_strlen($text('text')) > 255) {
            $problems->add($field('text'), 'This is longer than 255 characters; shorten it.');
        }

        return null === $account || null === $quantity || null === $price
            ? null
            : [
                'account' => $account,
                'text' => mb_substr($text('text'), 0, 255),
                'quantity' => $quantity,
                'price' => $price,
                'amount' => DeliveryEntry::value($quantity, $price, $currency),
                'analysis' => new Analysis(...$analysis),
            ];
    }
}
