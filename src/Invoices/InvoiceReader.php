<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Parties\Party;
use Nelbix\App\Parties\PartyDetails;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Fields;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\LineKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\PricedAmount;
use Nelbix\Core\Money\Rate;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Reads an invoice from the strings of a form or of a file. One reader for both, and for both sides. */
final readonly class InvoiceReader
{
    public const MAX_LINES = 500;

    public function __construct(
        private Lookup $lookup,
        private CodeBook $codes,
        private Chart $chart,
        private BooksDay $booksDay,
        private PartyDetails $details,
    ) {
    }

    /**
     * @param array<mixed> $raw party, number, kind, document_date, posting_date, due_date, start_date, terms, currency, rate,
     *                          description, stated_total, against, look_alike_reason, paper[], lines[] (account, amount, tax_code,
     *                          text, cost_center, department, project), tax[code]
     * @param bool $file true reads plain ISO dates and decimals only, as files have them
     * @param array<string, Party> $parties those that were read for many invoices together
     */
    public function read(Actor $actor, Side $side, array $raw, bool $file = false, array $parties = []): InvoiceInput
    {
        $problems = new ProblemList();
        $text = static fn (string $key, int $max = 255): string => \is_scalar($raw[$key] ?? null)
            ? mb_substr(trim((string) $raw[$key]), 0, $max + 1)
            : '';
        foreach (['number' => 60, 'description' => 255, 'their_order' => 120] as $key => $max) {
            if (mb_strlen($text($key, $max)) > $max) {
                $problems->add($key, \sprintf('This is longer than %d characters; shorten it.', $max));
            }
        }
        $kind = DocumentKind::tryFrom('' === $text('kind') ? 'invoice' : $text('kind'));
        if (
            null === $kind
            || !$kind->isInvoiced()
            || (DocumentKind::FinanceCharge === $kind && Side::Payables === $side)
        ) {
            $problems->add(
                'kind',
                \sprintf(
                    '“%s” is not a kind of document here; invoice, credit_note and debit_note are.',
                    $text('kind', 30),
                ),
            );
            $kind = DocumentKind::Invoice;
        }
        /** @var Party|null $party */
        $party = $problems->attempt(
            fn (): Party => $this->lookup->party($actor->companyId, $side, $text('party', 120), 'party', $parties),
        );

        $stop =
            null === $party || DocumentKind::CreditNote === $kind
                ? null
                : $this->details->stopped($party->id(), 'invoices', $this->booksDay->of($actor->companyId));
        if (null !== $party && null !== $stop) {
            $problems->add(
                'party',
                \sprintf(
                    'No new invoices of %s: %s. Take the stop away on its page, or enter nothing.',
                    $party->name,
                    $stop,
                ),
            );
        }
        $dates = $this->booksDay->input($actor->companyId);
        $day = fn (string $field, ?Day $anchor = null): ?Day => '' === $text($field, 40)
            ? null
            : $problems->attempt(
                static fn (): Day => $file
                    ? Day::of($text($field, 40), $field)
                    : $dates->read($text($field, 40), $field, $anchor),
            );
        $documentDate = $day('document_date');
        if (null === $documentDate && '' === $text('document_date')) {
            $problems->add(
                'document_date',
                'The document date is missing; type the date on the paper.',
                ProblemKind::Missing,
            );
        }
        $postingDate = '' === $text('posting_date') ? $documentDate : $day('posting_date');
        $dueDate = $day('due_date', $documentDate);
        $startDate = $day('start_date', $documentDate);

        $termCode = $text('terms', 20);
        $term = $problems->attempt(fn () => $this->codes->term($actor->companyId, $side, $termCode));
        $termId = $term?->id() ?? ('' === $termCode ? $party?->termId : null);

        $currency = '' === $text('currency') ? $party->currency ?? $actor->baseCurrency : $text('currency', 3);
        if (null === $problems->attempt(static fn (): Currency => Currency::of($currency))) {
            $currency = $actor->baseCurrency;
        }
        $rate =
            '' === $text('rate') ? null : $problems->attempt(static fn (): BigDecimal => self::rate($text('rate', 40)));
        $money = static fn (string $value, string $field): Money => $file
            ? Money::parse($value, $currency, $field)
            : AmountInput::read($value, Currency::of($currency), $field);

        $lines = [];
        $rawLines = \is_array($raw['lines'] ?? null) ? $raw['lines'] : [];
        if (\count($rawLines) > self::MAX_LINES) {
            $problems->add('lines', \sprintf('A document has at most %d lines; split it.', self::MAX_LINES));
            $rawLines = \array_slice($rawLines, 0, self::MAX_LINES, true);
        }
        foreach ($rawLines as $k => $rawLine) {
            $line = $this->line(
                $actor,
                $side,
                (int) $k,
                \is_array($rawLine) ? $rawLine : [],
                $party,
                Currency::of($currency),
                $file,
                $money,
                $problems,
                $kind,
            );
            if (null !== $line) {
                $lines[(int) $k] = $line;
            }
        }
        if (
            [] === $lines
            && [] === array_filter($problems->all, static fn (Problem $p): bool => str_starts_with($p->field, 'lines'))
        ) {
            $problems->add(
                'lines.0.amount',
                'There is no line with an amount; enter at least one.',
                ProblemKind::Missing,
            );
        }
        $overrides = [];
        foreach (\is_array($raw['tax'] ?? null) ? $raw['tax'] : [] as $code => $value) {
            $value = \is_string($value) ? trim($value) : '';
            $tax = '' === $value ? null : $problems->attempt(static fn (): Money => $money($value, 'tax.'.$code));
            if (null !== $tax) {
                $overrides[(string) $code] = $tax->minor;
            }
        }
        $total =
            '' === $text('stated_total')
                ? null
                : $problems->attempt(static fn (): Money => $money($text('stated_total', 60), 'stated_total'));
        $came =
            '' === $text('money_amount') || Side::Payables === $side
                ? null
                : $problems->attempt(static fn (): int => $money($text('money_amount', 60), 'money_amount')->minor);
        if (null !== $came && $came <= 0) {
            $problems->add('money_amount', 'Money that came is above zero; leave it empty when none did.');
        }
        $against =
            '' === $text('against', 60) || null === $party
                ? null
                : $problems->attempt(fn (): int => $this->against($actor, $side, $kind, $party, $text('against', 60)));
        $sold = $this->sold($side, $party, $text, $problems);
        $number = mb_substr($text('number', 60), 0, 60);
        if ('' === $number && Side::Payables === $side) {
            $problems->add(
                'number',
                'Their number is missing; type the number on the vendor’s paper.',
                ProblemKind::Missing,
            );
        }

        return new InvoiceInput(
            $side,
            $kind,
            $party?->id(),
            $number,
            $documentDate,
            $postingDate,
            $dueDate,
            $startDate,
            $termId,
            $currency,
            $rate,
            mb_substr($text('description'), 0, 255),
            $lines,
            $overrides,
            $total?->minor,
            $problems->all,
            $file && !\array_key_exists('look_alike_reason', $raw)
                ? null
                : mb_substr($text('look_alike_reason'), 0, 255),
            $against,
            array_values(
                array_filter(
                    array_map(
                        'intval',
                        \is_array($raw['paper'] ?? null) ? array_filter($raw['paper'], is_string(...)) : [],
                    ),
                ),
            ),
            $came,
            $text('money_bank', 20),
            mb_substr($text('money_reference', 120), 0, 120),
            ...[
                ...$sold,
                'rateMeant' => $file ? null : '' !== $text('rate_meant', 5),
                'dayMeant' => $file ? null : '' !== $text('day_meant', 5),
                'insteadOf' => (int) $text('_put_right', 12) ?: null,
                'theirOrder' => Side::Receivables === $side ? mb_substr($text('their_order', 120), 0, 120) : '',
            ],
        );
    }

    /**
     * Who sold it, and what they get: as typed, else as the customer has it.
     *
     * @param \Closure(string, int=): string $text
     *
     * @return array{string, ?string}
     */
    private function sold(Side $side, ?Party $party, \Closure $text, ProblemList $problems): array
    {
        if (Side::Payables === $side) {
            return ['', null];
        }
        $percent = $text('commission_percent', 10);
        if ('' !== $percent && 1 !== preg_match('/\A\d{1,2}(\.\d{1,4})?\z/', $percent)) {
            $problems->add('commission_percent', 'Give a percent such as 2.5.');
            $percent = '';
        }
        $person = mb_substr($text('salesperson', 80), 0, 80);

        return [
            '' === $person ? $party->salesperson ?? '' : $person,
            '' === $percent ? $party?->commissionPercent : $percent,
        ];
    }

    /** @throws Refused when the party has no such invoice */
    private function against(Actor $actor, Side $side, DocumentKind $kind, Party $party, string $number): int
    {
        if (DocumentKind::CreditNote !== $kind && !(DocumentKind::DebitNote === $kind && Side::Payables === $side)) {
            throw Refused::because(
                'against',
                'Only a credit, or a claim on a vendor, is against an invoice; leave this empty.',
            );
        }

        return $this->lookup->documentOf($actor->companyId, $side, $party->id(), $number) ??
            throw Refused::because(
                'against',
                \sprintf(
                    '%s has no posted invoice “%s”; give our number or theirs.',
                    $party->name,
                    mb_strimwidth($number, 0, 40, '…'),
                ),
            );
    }

    /** @throws Refused */
    public static function rate(string $value, string $field = 'rate'): BigDecimal
    {
        return Rate::parse($value, $field);
    }

    /**
     * @param array<mixed> $raw
     * @param \Closure(string, string): Money $money
     */
    private function line(
        Actor $actor,
        Side $side,
        int $k,
        array $raw,
        ?Party $party,
        Currency $currency,
        bool $file,
        \Closure $money,
        ProblemList $problems,
        DocumentKind $documentKind,
    ): ?LineInput {
        $text = (new Fields($raw))->text(...);
        $field = static fn (string $key): string => \sprintf('lines.%d.%s', $k, $key);
        // a row that only carries defaults, or was emptied after it was matched, is no line
        if ('' === $text('amount') && '' === $text('text') && ('' === $text('account') || $k > 0)) {
            return null;
        }
        $account = $problems->attempt(
            fn (): int => match (true) {
                DocumentKind::FinanceCharge === $documentKind => $this->chargeAccount(
                    $actor,
                    $text('account'),
                    $field('account'),
                ),
                '' === $text('account') && null !== $party?->defaultAccountId => $party->defaultAccountId,
                default => $this->chart->ofLine($actor->companyId, $text('account'), $field('account')),
            },
        );
        // a file that says a quantity has it with its price in the amount
        $priced =
            $file && !str_contains($text('amount'), '×')
                ? null
                : $problems->attempt(
                    static fn (): ?PricedAmount => PricedAmount::read($text('amount'), $currency, $field('amount')),
                );
        $amount =
            null !== $priced
                ? Money::of($priced->amount, $currency->code)
                : $problems->attempt(
                    static fn (): Money => '' === $text('amount')
                        ? throw Refused::because($field('amount'), 'The amount is missing.', ProblemKind::Missing)
                        : $money($text('amount'), $field('amount')),
                );
        [$quantity, $price, $allowance] = [$priced?->quantity, $priced?->price, $priced?->allowance];
        $lineKind = LineKind::tryFrom('' === $text('kind') ? 'line' : $text('kind'));
        if (null === $lineKind) {
            $problems->add($field('kind'), 'The kind of a line is line, allowance or charge.');
            $lineKind = LineKind::Line;
        }
        if (LineKind::Line !== $lineKind && null !== $amount && $amount->minor < 0) {
            $problems->add(
                $field('amount'),
                'An allowance or charge is entered above zero; its kind says which way it goes.',
            );
        }
        $cost =
            '' === $text('cost') || Side::Payables === $side
                ? null
                : $problems->attempt(
                    static fn (): int => AmountInput::read(
                        $text('cost'),
                        Currency::of($actor->baseCurrency),
                        $field('cost'),
                    )->minor,
                );
        if (null !== $cost && $cost < 0) {
            $problems->add($field('cost'), 'What the goods cost is not below zero.');
        }
        $tax = $problems->attempt(
            fn () => $this->codes->taxCode($actor->companyId, $side, $text('tax_code'), $field('tax_code')),
        );
        $analysis = [];
        foreach (['cost_center', 'department', 'project'] as $kind) {
            $analysis[] = $problems->attempt(
                fn (): ?int => $this->codes->analysis($actor->companyId, $kind, $text($kind), $field($kind)),
            );
        }
        if (mb_strlen($text('text')) > 255) {
            $problems->add($field('text'), 'This is longer than 255 characters; shorten it.');
        }
        $delivered = Side::Payables === $side ? ((int) $text('delivery_line') ?: null) : null;
        $awaited = Side::Payables === $side && null === $delivered ? ((int) $text('order_line') ?: null) : null;
        if (null !== ($delivered ?? $awaited) && null === $quantity && null !== $amount) {
            $problems->add(
                $field('amount'),
                \sprintf(
                    'It is matched with %s: write quantity × price, such as 8 × 12.90, and that quantity is matched.',
                    null === $delivered ? 'an order' : 'a delivery',
                ),
            );
        }

        return null === $account || null === $amount || 0 === $amount->minor
            ? null
            : new LineInput(
                $account,
                $lineKind->sign() * $amount->minor,
                $tax?->id(),
                mb_substr($text('text'), 0, 255),
                $analysis[0],
                $analysis[1],
                $analysis[2],
                $quantity,
                $price,
                $cost,
                $lineKind,
                0 === $allowance ? null : $allowance,
                $delivered,
                $awaited,
            );
    }

    /** A finance charge is income of its own kind. @throws Refused when another account is typed */
    private function chargeAccount(Actor $actor, string $typed, string $field): int
    {
        $own = $this->chart->role($actor->companyId, AccountRole::FinanceChargeIncome);
        if ('' !== $typed && $this->chart->postable($actor->companyId, $typed, $field) !== $own) {
            throw Refused::because($field, 'A finance charge goes to finance charge income; leave the account empty.');
        }

        return $own;
    }
}
