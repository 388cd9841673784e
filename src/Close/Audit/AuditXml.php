<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Audit;

use Nelbix\App\Ledger\SourceKind;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Calendar\Day;
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
    private const FLUSH = 200;

    private \XMLWriter $xml;
    private int $written = 0;

    /** @var \Closure(string): void */
    private \Closure $out;

    private string $base = '';

    public function __construct(private readonly AuditRows $rows, private readonly ClockInterface $clock)
    {
    }

    /** @param \Closure(string): void $out takes the file part by part */
    public function write(Company $company, Day $from, Day $to, \Closure $out): void
    {
        $this->xml = new \XMLWriter();
        $this->xml->openMemory();
        $this->xml->setIndent(true);
        $this->out = $out;
        $this->base = $company->baseCurrency;
        $totals = $this->rows->totals($company->id(), $from, $to);
        $this->xml->startDocument('1.0', 'UTF-8');
        $this->xml->startElementNs(null, 'AuditFile', self::SPACE);
        $this->header($company, $from, $to);
        $this->masterFiles($company, $from, $to);
        $this->entries($company, $from, $to, $totals);
        $this->sources($company, $from, $to, $totals);
        $this->xml->endElement();
        $this->xml->endDocument();
        ($this->out)($this->xml->outputMemory());
    }

    private function header(Company $company, Day $from, Day $to): void
    {
        $this->open('Header');
        $this->say('AuditFileVersion', '2.00');
        $this->say('AuditFileCountry', $company->country);
        $this->say('AuditFileDateCreated', $this->clock->now()->format('Y-m-d'));
        $this->say('SoftwareCompanyName', 'Nelbix');
        $this->say('SoftwareID', 'Nelbix');
        $this->open('Company');
        $this->say('RegistrationNumber', '' === $company->taxNumber ? $company->code : $company->taxNumber);
        $this->say('Name', $company->name);
        $this->xml->endElement();
        $this->say('DefaultCurrencyCode', $company->baseCurrency);
        $this->open('SelectionCriteria');
        $this->say('SelectionStartDate', $from->iso());
        $this->say('SelectionEndDate', $to->iso());
        $this->xml->endElement();
        $this->say('TaxAccountingBasis', 'Invoice');
        $this->xml->endElement();
    }

    private function masterFiles(Company $company, Day $from, Day $to): void
    {
        $this->open('MasterFiles');
        $this->open('GeneralLedgerAccounts');
        foreach ($this->rows->accounts($company->id(), $from, $to) as $a) {
            $this->open('Account');
            $this->say('AccountID', (string) $a['number']);
            $this->say('AccountDescription', (string) $a['name']);
            $this->say('AccountType', (string) $a['type']);
            $this->balance('Opening', (int) $a['opening']);
            $this->balance('Closing', (int) $a['closing']);
            $this->close();
        }
        $this->xml->endElement();
        foreach (
            ['receivables' => ['Customers', 'Customer'], 'payables' => ['Suppliers', 'Supplier']] as $side => [$all, $one]
        ) {
            $this->open($all);
            foreach ($this->rows->parties($company->id(), $side, $from, $to) as $p) {
                $this->open($one);
                $this->say('RegistrationNumber', (string) $p['tax_number']);
                $this->say('Name', (string) $p['name']);
                $this->open('Address');
                $this->say('StreetName', (string) $p['street']);
                $this->say('City', (string) $p['city']);
                $this->say('Country', (string) $p['country']);
                $this->xml->endElement();
                $this->say($one.'ID', (string) $p['code']);
                $this->say('AccountID', (string) $p['account']);
                $this->balance('Opening', (int) $p['opening']);
                $this->balance('Closing', (int) $p['closing']);
                $this->close();
            }
            $this->xml->endElement();
        }
        $this->open('TaxTable');
        foreach ($this->rows->taxCodes($company->id()) as $t) {
            $this->open('TaxTableEntry');
            $this->say('TaxType', (string) $t['used_by']);
            $this->open('TaxCodeDetails');
            $this->say('TaxCode', (string) $t['code']);
            $this->say('Description', (string) $t['text']);
            $this->say('TaxPercentage', (string) $t['rate']);
            $this->xml->endElement();
            $this->xml->endElement();
        }
        $this->xml->endElement();
        $this->close();
    }

    /** @param array{entries: int, lines: int, debit: int, credit: int, documents: int, settlements: int} $totals */
    private function entries(Company $company, Day $from, Day $to, array $totals): void
    {
        $this->open('GeneralLedgerEntries');
        $this->say('NumberOfEntries', (string) $totals['entries']);
        $this->say('TotalDebit', $this->money($totals['debit']));
        $this->say('TotalCredit', $this->money($totals['credit']));
        foreach ([null, ...SourceKind::cases()] as $kind) {
            $begun = false;
            foreach ($this->rows->entries($company->id(), $kind, $from, $to) as $e) {
                if (!$begun) {
                    $this->open('Journal');
                    $this->say('JournalID', $kind->value ?? 'by_hand');
                    $this->say('Description', str_replace('_', ' ', $kind->value ?? 'by hand'));
                    $this->say('Type', $kind->value ?? 'by_hand');
                    $begun = true;
                }
                $this->transaction($e);
            }
            if ($begun) {
                $this->close();
            }
        }
        $this->close();
    }

    /** @param array<string, mixed> $e */
    private function transaction(array $e): void
    {
        $this->open('Transaction');
        $this->say('TransactionID', (string) $e['number']);
        $this->say('Period', (string) $e['period']);
        $this->say('PeriodYear', (string) $e['year']);
        $this->say('TransactionDate', (string) $e['posting_date']);
        $this->say('SourceID', (string) $e['username']);
        $this->say('Description', (string) $e['text']);
        $this->say('SystemEntryDate', substr((string) $e['created_at'], 0, 10));
        $this->say('GLPostingDate', (string) $e['posting_date']);
        foreach ($e['lines'] as $l) {
            $this->open('Line');
            $this->say('RecordID', (string) $l['position']);
            $this->say('AccountID', (string) $l['account']);
            foreach (['cost_center', 'department', 'project'] as $type) {
                if (null !== $l[$type]) {
                    $this->open('Analysis');
                    $this->say('AnalysisType', $type);
                    $this->say('AnalysisID', (string) $l[$type]);
                    $this->xml->endElement();
                }
            }
            $this->say('SourceDocumentID', (string) $e['document']);
            if (null !== $l['party']) {
                $this->say('receivables' === $l['side'] ? 'CustomerID' : 'SupplierID', (string) $l['party']);
            }
            $this->say('Description', (string) $l['text']);
            $this->amount((int) $l['base'], (int) $l['amount'], (string) $e['currency']);
            $this->xml->endElement();
        }
        $this->close();
    }

    /** @param array{entries: int, lines: int, debit: int, credit: int, documents: int, settlements: int} $totals */
    private function sources(Company $company, Day $from, Day $to, array $totals): void
    {
        $this->open('SourceDocuments');
        foreach (['receivables' => 'SalesInvoices', 'payables' => 'PurchaseInvoices'] as $side => $all) {
            $this->open($all);
            foreach ($this->rows->documents($company->id(), $side, self::INVOICED, $from, $to) as $d) {
                $this->invoice($d);
            }
            $this->xml->endElement();
        }
        $this->open('Payments');
        $others = array_values(
            array_diff(array_column(\Nelbix\Core\Ledger\DocumentKind::cases(), 'value'), self::INVOICED),
        );
        foreach ($this->rows->documents($company->id(), null, $others, $from, $to) as $d) {
            $this->open('Payment');
            $this->say('PaymentRefNo', (string) $d['number']);
            $this->say('TransactionID', (string) $d['entry']);
            $this->say('TransactionDate', (string) $d['posting_date']);
            $this->say('PaymentMethod', (string) ('' === (string) $d['method'] ? $d['kind'] : $d['method']));
            $this->say('Description', (string) $d['description']);
            $this->items($d['items']);
            $this->close();
        }
        foreach ($this->rows->settlements($company->id(), $from, $to) as $s) {
            $this->settlement($s, (string) $s['settled_on'], 1);
            if (null !== $s['undone_on']) {
                $this->settlement($s, (string) $s['undone_on'], -1);
            }
        }
        $this->xml->endElement();
        $this->open('ControlTotals');
        $this->say('NumberOfDocuments', (string) $totals['documents']);
        $this->say('NumberOfSettlements', (string) $totals['settlements']);
        $this->say('NumberOfLines', (string) $totals['lines']);
        $this->xml->endElement();
        $this->close();
    }

    /** @param array<string, mixed> $d */
    private function invoice(array $d): void
    {
        $this->open('Invoice');
        $this->say('InvoiceNo', (string) $d['number']);
        $this->say('receivables' === $d['side'] ? 'CustomerID' : 'SupplierID', (string) $d['party']);
        $this->say('InvoiceDate', (string) $d['document_date']);
        $this->say('InvoiceType', (string) $d['kind']);
        $this->say('GLPostingDate', (string) $d['posting_date']);
        $this->say('SourceID', (string) $d['username']);
        $this->say('References', (string) ($d['reverses'] ?? $d['their_number']));
        $this->say('TransactionID', (string) $d['entry']);
        $this->items($d['items']);
        $this->open('DocumentTotals');
        $currency = (string) $d['currency'];
        $this->say('TaxPayable', Money::of((int) $d['tax'], $currency)->decimal());
        $this->say('NetTotal', Money::of((int) $d['net'], $currency)->decimal());
        $this->say('GrossTotal', Money::of((int) $d['total'], $currency)->decimal());
        $this->say('CurrencyCode', $currency);
        $this->xml->endElement();
        $this->close();
    }

    /** @param list<array<string, mixed>> $items in the item's sign: positive is owed */
    private function items(array $items): void
    {
        foreach ($items as $i) {
            $this->open('Settlement');
            $this->say('SettlementDiscount', (string) $i['number']);
            $this->say('AccountID', (string) $i['account']);
            $this->say('receivables' === $i['side'] ? 'CustomerID' : 'SupplierID', (string) $i['party']);
            $this->say('ItemKind', (string) $i['kind']);
            $this->open('SettlementAmount');
            $this->say('Amount', $this->money((int) $i['original_base']));
            $this->say('CurrencyCode', (string) $i['currency']);
            $this->say('CurrencyAmount', Money::of((int) $i['original'], (string) $i['currency'])->decimal());
            $this->xml->endElement();
            $this->say('SettlementDate', (string) $i['due_date']);
            $this->say('PostingDate', (string) $i['posting_date']);
            $this->xml->endElement();
        }
    }

    /**
     * @param array<string, mixed> $s
     * @param int $sign 1 as it was settled, −1 as it was undone
     */
    private function settlement(array $s, string $day, int $sign): void
    {
        $this->open('Payment');
        $this->say('PaymentRefNo', 'S-'.$s['id'].($sign < 0 ? '-undone' : ''));
        $this->say('TransactionDate', $day);
        $this->say('PaymentMethod', 'settlement');
        $this->say('Description', (string) $s['document']);
        foreach ($s['lines'] as $k => $l) {
            $this->open('Line');
            $this->say('LineNumber', (string) ($k + 1));
            $this->say('SourceDocumentID', (string) $l['number']);
            $this->say('AccountID', (string) $l['account']);
            $this->say('receivables' === $s['side'] ? 'CustomerID' : 'SupplierID', (string) $s['party']);
            $this->say('LineKind', (string) $l['kind']);
            $this->open('LineAmount');
            $this->say('Amount', $this->money($sign * (int) $l['applied_base']));
            $this->say('CurrencyCode', (string) $s['currency']);
            $this->say('CurrencyAmount', Money::of($sign * (int) $l['applied'], (string) $s['currency'])->decimal());
            $this->xml->endElement();
            $this->xml->endElement();
        }
        $this->close();
    }

    private function amount(int $base, int $amount, string $currency): void
    {
        $this->open($base < 0 || (0 === $base && $amount < 0) ? 'CreditAmount' : 'DebitAmount');
        $this->say('Amount', $this->money(abs($base)));
        if ($currency !== $this->base) {
            $this->say('CurrencyCode', $currency);
            $this->say('CurrencyAmount', Money::of(abs($amount), $currency)->decimal());
        }
        $this->xml->endElement();
    }

    private function balance(string $which, int $base): void
    {
        $this->say($which.($base < 0 ? 'CreditBalance' : 'DebitBalance'), $this->money(abs($base)));
    }

    private function money(int $base): string
    {
        return Money::of($base, $this->base)->decimal();
    }

    private function open(string $name): void
    {
        $this->xml->startElement($name);
    }

    private function say(string $name, string $text): void
    {
        if ('' !== $text) {
            // what XML cannot hold at all is left out
            $this->xml->writeElement(
                $name,
                (string) preg_replace(
                    '/[^\x09\x0A\x0D\x20-\x{D7FF}\x{E000}-\x{FFFD}\x{10000}-\x{10FFFF}]/u',
                    '',
                    $text,
                ),
            );
        }
    }

    private function close(): void
    {
        $this->xml->endElement();
        if (0 === ++$this->written % self::FLUSH) {
            ($this->out)($this->xml->outputMemory());
        }
    }
}
