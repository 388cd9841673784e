<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Parties\PartyAccounts;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Analysis;
use Nelbix\Core\Ledger\Cleared;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\LineKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Nelbix\Core\Tax\TaxCalculator;
use Nelbix\Core\Terms\PaymentTerm;
use Nelbix\Core\Terms\RunsFrom;
use Nelbix\Core\Terms\Step;
use Nelbix\Core\Terms\TermDates;

/** Works an invoice out with the rules of the core. Reads, never writes. */
final readonly class InvoicePlanner
{
    public function __construct(
        private CodeBook $codes,
        private Chart $chart,
        private Rates $rates,
        private Settings $settings,
        private BooksDay $booksDay,
        private PartyAccounts $partyAccounts,
        private MatchGoods $match,
        private AwaitGoods $await,
        private CompareMatch $compare,
    ) {
    }

    /** @throws Refused when the input cannot be worked out: no lines, a tax beyond tolerance, no rate, a negative total */
    public function plan(Actor $actor, InvoiceInput $input): InvoicePlan
    {
        $settings = $this->settings->of($actor->companyId);
        $codes = $this->codes->taxCodes($actor->companyId);
        $lines = [];
        $taxAccounts = [];
        $corrects = false;
        foreach ($input->lines as $k => $line) {
            $record = null === $line->taxCodeId ? null : $codes[$line->taxCodeId];
            if (null !== $record) {
                $taxAccounts[$record->code] =
                    Side::Payables === $input->side
                        ? ['input' => $record->accountId, 'output' => $record->reverseAccountId ?? $record->accountId]
                        : ['input' => $record->accountId, 'output' => $record->accountId];
                $corrects = $corrects || $record->discountCorrectsTax;
            }
            $lines[$k] = ['amount' => $line->amount, 'code' => $record?->rule()];
        }
        if ([] === $lines) {
            throw Refused::because(
                'lines.0.amount',
                'There is no line with an amount; enter at least one.',
                ProblemKind::Missing,
            );
        }
        $tolerance = $settings->amount('tax_tolerance', $actor->baseCurrency);
        $tax = TaxCalculator::compute($lines, $input->taxOverrides, Side::Payables === $input->side ? $tolerance : 0);
        $total = $tax->total();
        if ($total < 0) {
            throw Refused::because(
                'lines',
                'The document’s total is negative; enter a credit note for money that goes the other way.',
            );
        }
        $document = $input->documentDate ?? $this->booksDay->of($actor->companyId);
        $posting = $input->postingDate ?? $document;
        $rate =
            $input->currency === $actor->baseCurrency
                ? \Brick\Math\BigDecimal::one()
                : $input->rate ?? $this->rates->on($actor->companyId, $input->currency, $actor->baseCurrency, $posting);
        $base = InvoiceEntry::base($total, $input->currency, $actor->baseCurrency, $rate);
        $table =
            null === $input->rate
                ? null
                : $this->rates->find($actor->companyId, $input->currency, $actor->baseCurrency, $posting);
        $worth =
            null === $table
                ? $base
                : max($base, InvoiceEntry::base($total, $input->currency, $actor->baseCurrency, $table));

        $term =
            null === $input->termId
                ? new PaymentTerm(RunsFrom::Document, Step::days(0))
                : $this->codes->terms($actor->companyId)[$input->termId]->term();
        if (!$input->kind->earnsDiscount()) {
            $term = $term->withoutDiscounts();
        }
        $charges = 0;
        foreach ($input->lines as $k => $line) {
            $charges += LineKind::Charge === $line->kind ? $tax->lineNets[$k] : 0;
        }
        $discountBase = $corrects
            ? $total
            : match ($settings->values['discount_base']) {
                'net' => $tax->net,
                'net_without_charges' => $tax->net - $charges,
                default => $total,
            };
        $sign = $input->kind->itemSign($input->side);
        $dates = new TermDates(
            $document,
            $posting,
            $this->booksDay->of($actor->companyId),
            $input->startDate,
            $input->startDate,
            $input->dueDate,
        );
        // only what is owed falls due in parts and earns a discount; a credit stands whole from its own date
        $parts =
            $sign > 0
                ? $term->schedule($dates, $total, $discountBase)
                : [new \Nelbix\Core\Terms\ScheduledPart($input->dueDate ?? $document, $total, 0, [])];
        $control = $this->partyAccounts->control($actor->companyId, $input->side, $input->partyId);
        $matched = $this->match->of($actor, $input, $posting);
        $awaited = $this->await->of($actor, $input);
        $entry = InvoiceEntry::draft(
            $input->side,
            $sign,
            $control,
            $input->partyId ?? 0,
            '' !== $input->description ? $input->description : $input->number,
            $input->currency,
            self::entryLines($input, $matched, $awaited),
            $tax,
            $taxAccounts,
            $base,
            static fn (int $amount): int => InvoiceEntry::base($amount, $input->currency, $actor->baseCurrency, $rate),
            $this->costs($actor, $input),
            $actor->baseCurrency,
        );

        return new InvoicePlan(
            $tax,
            $base,
            $rate,
            $discountBase,
            $term->graceDays,
            $control,
            $document,
            $posting,
            $parts,
            $entry,
            $worth,
            null !== $table && null !== $input->rate && Rates::isFarOff($input->rate, $table) ? $table : null,
            $matched,
            $this->compare->mismatches($actor, $input, $tax, $matched + $awaited, $rate),
            $awaited,
            $input->currency === $actor->baseCurrency || null !== $input->rate
                ? null
                : $this->rates->dayOf($actor->companyId, $input->currency, $actor->baseCurrency, $posting),
        );
    }

    /**
     * @param array<int, MatchedLine> $matched
     * @param array<int, AwaitedGoods> $awaited
     *
     * @return array<int, array{account: int, text: string, analysis: Analysis, cleared: Cleared|null, awaited: int|null}> under the
     *                                                                                                                     keys of the lines
     */
    private static function entryLines(InvoiceInput $input, array $matched, array $awaited): array
    {
        $lines = [];
        foreach ($input->lines as $k => $line) {
            $lines[$k] = [
                'account' => $line->accountId,
                'text' => $line->text,
                'analysis' => new Analysis($line->costCenterId, $line->departmentId, $line->projectId),
                'cleared' => ($matched[$k] ?? null)?->cleared,
                'awaited' => ($awaited[$k] ?? null)?->control,
            ];
        }

        return $lines;
    }

    /** @return list<array{cost: int, costOfSales: int, inventory: int, text: string, analysis: Analysis}> */
    private function costs(Actor $actor, InvoiceInput $input): array
    {
        $costs = [];
        foreach ($input->lines as $line) {
            if (null !== $line->cost && 0 !== $line->cost) {
                $costs[] = [
                    'cost' => $line->cost,
                    'costOfSales' => $this->chart->role($actor->companyId, AccountRole::CostOfSales),
                    'inventory' => $this->chart->role($actor->companyId, AccountRole::Inventory),
                    'text' => $line->text,
                    'analysis' => new Analysis($line->costCenterId, $line->departmentId, $line->projectId),
                ];
            }
        }

        return $costs;
    }
}
