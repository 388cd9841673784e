<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Audit;

use Nelbix\App\Ledger\SourceKind;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Money\Money;
use Psr\Clock\ClockInterface;

/**
 * The audit file as XML in the layout of the OECD's Standard Audit File for Tax, version 2.0 (2010): header, master files, general ledger
 * entries, source documents. What a document put into the party ledger stands in its Settlement elements (number of the item, amount, due
 * date), and each settlement is a Payment whose lines name the items: so open items and aging can be worked out from the file alone.
 */
final class AuditXml
{
    private const SPACE = 'urn:OECD:StandardAuditFile-Taxation/2.00';
    private const INVOICED = ['invoice', 'credit_note', 'debit_note', 'finance_charge'];

    private AuditElements $xml;

    public function __construct(private readonly AuditRows $rows, private readonly ClockInterface $clock)
    {
    }

    /** @param \Closure(string): void $out takes the file part by part */
    public function write(Company $company, Day $from, Day $to, \Closure $out): void
    {
        $this->xml = new AuditElements(self::SPACE, $company->baseCurrency, $out);
        $totals = $this->rows->totals($company->id(), $from, $to);
        $this->header($company, $from, $to);
        $this->masterFiles($company, $from, $to);
        $this->entries($company, $from, $to, $totals);
        $this->sources($company, $from, $to, $totals);
        $this->xml->finish();
    }

    private function header(Company $company, Day $from, Day $to): void
    {
        $this->xml->open('Header');
        $this->xml->say('AuditFileVersion', '2.00');
        $this->xml->say('AuditFileCountry', $company->country);
        $this->xml->say('AuditFileDateCreated', $this->clock->now()->format('Y-m-d'));
        $this->xml->say('SoftwareCompanyName', 'Nelbix');
        $this->xml->say('SoftwareID', 'Nelbix');
        $this->xml->open('Company');
        $this->xml->say('RegistrationNumber', '' === $company->taxNumber ? $company->code : $company->taxNumber);
        $this->xml->say('Name', $company->name);
        $this->xml->end();
        $this->xml->say('DefaultCurrencyCode', $company->baseCurrency);
        $this->xml->open('SelectionCriteria');
        $this->xml->say('SelectionStartDate', $from->iso());
        $this->xml->say('SelectionEndDate', $to->iso());
        $this->xml->end();
        $this->xml->say('TaxAccountingBasis', 'Invoice');
        $this->xml->end();
    }

    private function masterFiles(Company $company, Day $from, Day $to): void
    {
        $this->xml->open('MasterFiles');
        $this->xml->open('GeneralLedgerAccounts');
        foreach ($this->rows->accounts($company->id(), $from, $to) as $a) {
            $this->xml->open('Account');
            $this->xml->say('AccountID', (string) $a['number']);
            $this->xml->say('AccountDescription', (string) $a['name']);
            $this->xml->say('AccountType', (string) $a['type']);
            $this->xml->balance('Opening', (int) $a['opening']);
            $this->xml->balance('Closing', (int) $a['closing']);
            $this->xml->close();
        }
        $this->xml->end();
        $this->parties($company, $from, $to);
        $this->taxTable($company);
        $this->xml->close();
    }

    private function parties(Company $company, Day $from, Day $to): void
    {
        foreach (
            ['receivables' => ['Customers', 'Customer'], 'payables' => ['Suppliers', 'Supplier']] as $side => [$all, $one]
        ) {
            $this->xml->open($all);
            foreach ($this->rows->parties($company->id(), $side, $from, $to) as $p) {
                $this->xml->open($one);
                $this->xml->say('RegistrationNumber', (string) $p['tax_number']);
                $this->xml->say('Name', (string) $p['name']);
                $this->xml->open('Address');
                $this->xml->say('StreetName', (string) $p['street']);
                $this->xml->say('City', (string) $p['city']);
                $this->xml->say('Country', (string) $p['country']);
                $this->xml->end();
                $this->xml->say($one.'ID', (string) $p['code']);
                $this->xml->say('AccountID', (string) $p['account']);
                $this->xml->balance('Opening', (int) $p['opening']);
                $this->xml->balance('Closing', (int) $p['closing']);
                $this->xml->close();
            }
            $this->xml->end();
        }
    }

    private function taxTable(Company $company): void
    {
        $this->xml->open('TaxTable');
        foreach ($this->rows->taxCodes($company->id()) as $t) {
            $this->xml->open('TaxTableEntry');
            $this->xml->say('TaxType', (string) $t['used_by']);
            $this->xml->open('TaxCodeDetails');
            $this->xml->say('TaxCode', (string) $t['code']);
            $this->xml->say('Description', (string) $t['text']);
            $this->xml->say('TaxPercentage', (string) $t['rate']);
            $this->xml->end();
            $this->xml->end();
        }
        $this->xml->end();
    }

    /** @param array{entries: int, lines: int, debit: int, credit: int, documents: int, settlements: int} $totals */
    private function entries(Company $company, Day $from, Day $to, array $totals): void
    {
        $this->xml->open('GeneralLedgerEntries');
        $this->xml->say('NumberOfEntries', (string) $totals['entries']);
        $this->xml->say('TotalDebit', $this->xml->money($totals['debit']));
        $this->xml->say('TotalCredit', $this->xml->money($totals['credit']));
        foreach ([null, ...SourceKind::cases()] as $kind) {
            $begun = false;
            foreach ($this->rows->entries($company->id(), $kind, $from, $to) as $e) {
                if (!$begun) {
                    $this->xml->open('Journal');
                    $this->xml->say('JournalID', $kind->value ?? 'by_hand');
                    $this->xml->say('Description', str_replace('_', ' ', $kind->value ?? 'by hand'));
                    $this->xml->say('Type', $kind->value ?? 'by_hand');
                    $begun = true;
                }
                $this->transaction($e);
            }
            if ($begun) {
                $this->xml->close();
            }
        }
        $this->xml->close();
    }

    /** @param array<string, mixed> $e */
    private function transaction(array $e): void
    {
        $this->xml->open('Transaction');
        $this->xml->say('TransactionID', (string) $e['number']);
        $this->xml->say('Period', (string) $e['period']);
        $this->xml->say('PeriodYear', (string) $e['year']);
        $this->xml->say('TransactionDate', (string) $e['posting_date']);
        $this->xml->say('SourceID', (string) $e['username']);
        $this->xml->say('Description', (string) $e['text']);
        $this->xml->say('SystemEntryDate', substr((string) $e['created_at'], 0, 10));
        $this->xml->say('GLPostingDate', (string) $e['posting_date']);
        foreach ($e['lines'] as $l) {
            $this->xml->open('Line');
            $this->xml->say('RecordID', (string) $l['position']);
            $this->xml->say('AccountID', (string) $l['account']);
            foreach (['cost_center', 'department', 'project'] as $type) {
                if (null !== $l[$type]) {
                    $this->xml->open('Analysis');
                    $this->xml->say('AnalysisType', $type);
                    $this->xml->say('AnalysisID', (string) $l[$type]);
                    $this->xml->end();
                }
            }
            $this->xml->say('SourceDocumentID', (string) $e['document']);
            if (null !== $l['party']) {
                $this->xml->say('receivables' === $l['side'] ? 'CustomerID' : 'SupplierID', (string) $l['party']);
            }
            $this->xml->say('Description', (string) $l['text']);
            $this->xml->amount((int) $l['base'], (int) $l['amount'], (string) $e['currency']);
            $this->xml->end();
        }
        $this->xml->close();
    }

    /** @param array{entries: int, lines: int, debit: int, credit: int, documents: int, settlements: int} $totals */
    private function sources(Company $company, Day $from, Day $to, array $totals): void
    {
        $this->xml->open('SourceDocuments');
        foreach (['receivables' => 'SalesInvoices', 'payables' => 'PurchaseInvoices'] as $side => $all) {
            $this->xml->open($all);
            foreach ($this->rows->documents($company->id(), $side, self::INVOICED, $from, $to) as $d) {
                $this->invoice($d);
            }
            $this->xml->end();
        }
        $this->xml->open('Payments');
        $others = array_values(array_diff(array_column(DocumentKind::cases(), 'value'), self::INVOICED));
        foreach ($this->rows->documents($company->id(), null, $others, $from, $to) as $d) {
            $this->xml->open('Payment');
            $this->xml->say('PaymentRefNo', (string) $d['number']);
            $this->xml->say('TransactionID', (string) $d['entry']);
            $this->xml->say('TransactionDate', (string) $d['posting_date']);
            $this->xml->say('PaymentMethod', (string) ('' === (string) $d['method'] ? $d['kind'] : $d['method']));
            $this->xml->say('Description', (string) $d['description']);
            $this->items($d['items']);
            $this->xml->close();
        }
        foreach ($this->rows->settlements($company->id(), $from, $to) as $s) {
            $this->settlement($s, (string) $s['settled_on'], 1);
            if (null !== $s['undone_on']) {
                $this->settlement($s, (string) $s['undone_on'], -1);
            }
        }
        $this->xml->end();
        $this->xml->open('ControlTotals');
        $this->xml->say('NumberOfDocuments', (string) $totals['documents']);
        $this->xml->say('NumberOfSettlements', (string) $totals['settlements']);
        $this->xml->say('NumberOfLines', (string) $totals['lines']);
        $this->xml->end();
        $this->xml->close();
    }

    /** @param array<string, mixed> $d */
    private function invoice(array $d): void
    {
        $this->xml->open('Invoice');
        $this->xml->say('InvoiceNo', (string) $d['number']);
        $this->xml->say('receivables' === $d['side'] ? 'CustomerID' : 'SupplierID', (string) $d['party']);
        $this->xml->say('InvoiceDate', (string) $d['document_date']);
        $this->xml->say('InvoiceType', (string) $d['kind']);
        $this->xml->say('GLPostingDate', (string) $d['posting_date']);
        $this->xml->say('SourceID', (string) $d['username']);
        $this->xml->say('References', (string) ($d['reverses'] ?? $d['their_number']));
        $this->xml->say('TransactionID', (string) $d['entry']);
        $this->items($d['items']);
        $this->xml->open('DocumentTotals');
        $currency = (string) $d['currency'];
        $this->xml->say('TaxPayable', Money::of((int) $d['tax'], $currency)->decimal());
        $this->xml->say('NetTotal', Money::of((int) $d['net'], $currency)->decimal());
        $this->xml->say('GrossTotal', Money::of((int) $d['total'], $currency)->decimal());
        $this->xml->say('CurrencyCode', $currency);
        $this->xml->end();
        $this->xml->close();
    }

    /** @param list<array<string, mixed>> $items in the item's sign: positive is owed */
    private function items(array $items): void
    {
        foreach ($items as $i) {
            $this->xml->open('Settlement');
            $this->xml->say('SettlementDiscount', (string) $i['number']);
            $this->xml->say('AccountID', (string) $i['account']);
            $this->xml->say('receivables' === $i['side'] ? 'CustomerID' : 'SupplierID', (string) $i['party']);
            $this->xml->say('ItemKind', (string) $i['kind']);
            $this->xml->inCurrency(
                'SettlementAmount',
                (int) $i['original_base'],
                (int) $i['original'],
                (string) $i['currency'],
            );
            $this->xml->say('SettlementDate', (string) $i['due_date']);
            $this->xml->say('PostingDate', (string) $i['posting_date']);
            $this->xml->end();
        }
    }

    /**
     * @param array<string, mixed> $s
     * @param int $sign 1 as it was settled, −1 as it was undone
     */
    private function settlement(array $s, string $day, int $sign): void
    {
        $this->xml->open('Payment');
        $this->xml->say('PaymentRefNo', 'S-'.$s['id'].($sign < 0 ? '-undone' : ''));
        $this->xml->say('TransactionDate', $day);
        $this->xml->say('PaymentMethod', 'settlement');
        $this->xml->say('Description', (string) $s['document']);
        foreach ($s['lines'] as $k => $l) {
            $this->xml->open('Line');
            $this->xml->say('LineNumber', (string) ($k + 1));
            $this->xml->say('SourceDocumentID', (string) $l['number']);
            $this->xml->say('AccountID', (string) $l['account']);
            $this->xml->say('receivables' === $s['side'] ? 'CustomerID' : 'SupplierID', (string) $s['party']);
            $this->xml->say('LineKind', (string) $l['kind']);
            $this->xml->inCurrency(
                'LineAmount',
                $sign * (int) $l['applied_base'],
                $sign * (int) $l['applied'],
                (string) $s['currency'],
            );
            $this->xml->end();
        }
        $this->xml->close();
    }
}
