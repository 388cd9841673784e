<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Outlook;

use Doctrine\DBAL\Connection;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Codes\PaymentTermRecord;
use Nelbix\App\Invoices\KeepRecurring;
use Nelbix\App\Invoices\Recurring;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Aging\CashFlow;
use Nelbix\Core\Aging\Lateness;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;
use Nelbix\Core\Tax\TaxCalculator;
use Nelbix\Core\Terms\TermDates;

/** What recurring documents will bring and take, and orders that are not invoiced, by their terms. */
final readonly class PlannedMoney
{
    /** No more times of one recurring document are looked at. */
    private const TIMES = 60;

    public function __construct(
        private Connection $db,
        private CodeBook $codes,
        private KeepRecurring $recurring,
        private Rates $rates,
    ) {
    }

    /**
     * @param Day $last of the outlook
     * @param Lateness $habit of all customers
     *
     * @return iterable<Expected>
     */
    public function recurring(Company $company, Day $today, Day $last, Lateness $habit): iterable
    {
        foreach ([Side::Receivables, Side::Payables] as $side) {
            $in = Side::Receivables === $side;
            $usual = $in ? $habit : null;
            foreach ($this->recurring->of($company->id(), $side) as $r) {
                $total = $r->stopped ? 0 : $this->worth($company, $r, $today);
                foreach ($r->stopped ? [] : $r->next(self::TIMES) as $day) {
                    if ($day->isAfter($last)) {
                        break;
                    }
                    if (null === $total) {
                        yield Expected::unknown(
                            ($in ? OutlookKind::RecurringIn : OutlookKind::RecurringOut)->value,
                            $day,
                            'recurring',
                            $side->value,
                            $r->name,
                        );
                        break;
                    }
                    foreach ($this->falls($this->term($company->id(), $r), $day, $total) as [$due, $amount]) {
                        $days = $usual?->after($due, $today);
                        yield new Expected(
                            new CashFlow(
                                ($in ? OutlookKind::RecurringIn : OutlookKind::RecurringOut)->value,
                                $in ? $amount : -$amount,
                                $days['usual'] ?? Day::latest($today, $due),
                                $days['early'] ?? null,
                                $days['late'] ?? null,
                            ),
                            'recurring',
                            $side->value,
                            $r->name,
                            (string) ($r->form['party'] ?? ''),
                            $due,
                            'comes on '.$day->long().($r->askAmount ? ', with the amount of last time' : ''),
                        );
                    }
                }
            }
        }
    }

    /** @return iterable<Expected> what is not invoiced of approved orders, without tax, by the vendor's terms from the day it is wanted */
    public function orders(Company $company, Day $today): iterable
    {
        $terms = $this->codes->terms($company->id());
        $rates = [];
        foreach (
            $this->db->iterateAssociative(
                <<<'SQL'
                SELECT o.id, o.number, p.name, p.term_id, o.currency, COALESCE(n.wanted_by, o.wanted_by, o.ordered_on) AS day,
                    SUM(ROUND(n.amount * (n.quantity - n.invoiced) / n.quantity)) AS amount
                FROM purchase_order o
                JOIN purchase_order_line n ON n.order_id = o.id AND n.invoiced < n.quantity
                JOIN party p ON p.id = o.party_id
                WHERE o.company_id = ? AND o.closed_on IS NULL AND o.approval IN ('none', 'approved')
                GROUP BY o.id, o.number, p.name, p.term_id, o.currency, day
                ORDER BY day, o.id
                SQL
                ,
                [$company->id()],
            ) as $r
        ) {
            $currency = (string) $r['currency'];
            $rates[$currency] ??= $this->rates->find($company->id(), $currency, $company->baseCurrency, $today);
            $comes = Day::latest($today, Day::of((string) $r['day']));
            if (null === $rates[$currency]) {
                yield Expected::unknown(
                    OutlookKind::Orders->value,
                    $comes,
                    'order',
                    (int) $r['id'],
                    (string) $r['number'],
                );
                continue;
            }
            $base = InvoiceEntry::base((int) $r['amount'], $currency, $company->baseCurrency, $rates[$currency]);
            foreach ($this->falls($terms[(int) $r['term_id']] ?? null, $comes, $base) as [$due, $amount]) {
                yield new Expected(
                    new CashFlow(OutlookKind::Orders->value, -$amount, $due),
                    'order',
                    (int) $r['id'],
                    (string) $r['number'],
                    (string) $r['name'],
                    $due,
                    'wanted by '.Day::of((string) $r['day'])->long().', without tax',
                );
            }
        }
    }

    /** @return int|null minor units of the base currency with tax, in the sign of what is owed; null when it cannot be told */
    private function worth(Company $company, Recurring $r, Day $today): ?int
    {
        $currency = (string) ($r->form['currency'] ?? $company->baseCurrency);
        $lines = [];
        try {
            foreach (\is_array($r->form['lines'] ?? null) ? $r->form['lines'] : [] as $line) {
                $code = (string) ($line['tax_code'] ?? '');
                $lines[] = [
                    'amount' => Money::parse((string) ($line['amount'] ?? ''), $currency, 'amount')->minor,
                    'code' => $this->codes->taxCode($company->id(), $r->side, $code, 'tax_code')?->rule(),
                ];
            }
            $rate = $this->rates->on($company->id(), $currency, $company->baseCurrency, $today);
        } catch (Refused) {
            return null;
        }
        $kind = DocumentKind::tryFrom((string) ($r->form['kind'] ?? '')) ?? DocumentKind::Invoice;

        return [] === $lines
            ? null
            : $kind->itemSign($r->side) *
                    InvoiceEntry::base(
                        TaxCalculator::compute($lines)->total(),
                        $currency,
                        $company->baseCurrency,
                        $rate,
                    );
    }

    private function term(int $companyId, Recurring $r): ?PaymentTermRecord
    {
        try {
            return $this->codes->term($companyId, $r->side, (string) ($r->form['terms'] ?? ''));
        } catch (Refused) {
            return null;
        }
    }

    /** @return list<array{Day, int}> what falls due when; all of it on the day where no terms say more */
    private function falls(?PaymentTermRecord $term, Day $day, int $total): array
    {
        try {
            $parts = null === $term ? [] : $term->term()->schedule(new TermDates($day, $day, $day), $total, $total);
        } catch (Refused) {
            $parts = [];
        }

        return [] === $parts
            ? [[$day, $total]]
            : array_values(array_map(static fn ($p): array => [$p->due, $p->amount], $parts));
    }
}
