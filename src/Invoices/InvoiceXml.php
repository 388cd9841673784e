<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Ubl\ElectronicInvoice;
use Nelbix\Core\Formats\Ubl\ElectronicLine;
use Nelbix\Core\Formats\Ubl\ElectronicParty;
use Nelbix\Core\Formats\Ubl\UblWriter;
use Nelbix\Core\Refused;
use Nelbix\Core\Terms\PaymentTerm;
use Nelbix\Core\Terms\TermInWords;

/** A posted customer invoice or credit note as an electronic one, UBL 2.1 after EN 16931. */
final readonly class InvoiceXml
{
    public function __construct(private Connection $db, private BankAccounts $banks)
    {
    }

    /** @throws Refused when what EN 16931 asks for is missing, such as the countries of seller and buyer */
    public function of(Company $company, int $documentId): string
    {
        $d = $this->db->fetchAssociative(
            <<<SQL
            SELECT d.number, d.kind, d.document_date, d.due_date, d.currency, d.reference, d.description, d.against_id, p.name,
                p.street, p.city, p.country, p.tax_number, p.email, t.spec
            FROM document d
            JOIN party p ON p.id = d.party_id
            LEFT JOIN payment_term t ON t.id = d.term_id
            WHERE d.id = ? AND d.company_id = ? AND d.side = 'receivables' AND d.state <> 'draft'
                AND d.kind IN ('invoice', 'credit_note', 'debit_note', 'finance_charge')
            SQL
            ,
            [$documentId, $company->id()],
        );
        if (false === $d) {
            throw Refused::because('', 'Only posted customer invoices and notes have an electronic form.');
        }
        $missing = array_keys(
            array_filter([
                'the company’s country (Setup, Settings)' => 1 !== preg_match('/\A[A-Z]{2}\z/', $company->country),
                'the company’s tax number (Setup, Settings)' => '' === $company->taxNumber,
                'the customer’s country as two letters' => 1 !== preg_match('/\A[A-Z]{2}\z/', (string) $d['country']),
            ]),
        );
        if ([] !== $missing) {
            throw Refused::because(
                '',
                \sprintf('An electronic invoice needs %s; add it and try again.', implode(' and ', $missing)),
            );
        }
        $lines = $others = [];
        $rest = 0;
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT l.net, l.amount, l.text, l.quantity, l.price, l.kind, l.allowance, c.rate, c.reverse_account_id
                FROM document_line l
                LEFT JOIN tax_code c ON c.id = l.tax_code_id
                WHERE l.document_id = ?
                ORDER BY l.position
                SQL
                ,
                [$documentId],
            ) as $l
        ) {
            [$category, $percent] = self::category(
                null === $l['rate'] ? null : (string) $l['rate'],
                null !== $l['reverse_account_id'],
            );
            $asEntered = $l['net'] === $l['amount'] && null !== $l['quantity'];
            $electronic = new ElectronicLine(
                '' === $l['text'] ? (string) $d['description'] : (string) $l['text'],
                (int) $l['net'],
                $category,
                $percent,
                $asEntered ? BigDecimal::of($l['quantity']) : null,
                $asEntered ? BigDecimal::of($l['price']) : null,
                $asEntered ? (int) $l['allowance'] : 0,
            );
            // a charge against a credit, and the like, is a line in EN 16931, whose allowances and charges are above zero
            if ('line' === $l['kind'] || ('allowance' === $l['kind']) !== (int) $l['net'] < 0) {
                $lines[] = $electronic;
            } else {
                $others[] = $electronic;
            }
            $rest += null === $l['rate'] ? (int) $l['net'] : 0;
        }
        $taxes = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT x.net, x.tax, c.rate, c.reverse_account_id
                FROM document_tax x
                JOIN tax_code c ON c.id = x.tax_code_id
                WHERE x.document_id = ?
                ORDER BY c.code
                SQL
                ,
                [$documentId],
            ) as $x
        ) {
            [$category, $percent] = self::category((string) $x['rate'], null !== $x['reverse_account_id']);
            $key = $category.$percent;
            $taxes[$key] ??= ['category' => $category, 'percent' => $percent, 'taxable' => 0, 'tax' => 0];
            $taxes[$key]['taxable'] += (int) $x['net'];
            $taxes[$key]['tax'] += 'AE' === $category ? 0 : (int) $x['tax'];
        }
        if (0 !== $rest || [] === $taxes) {
            $taxes['E'] = ['category' => 'E', 'percent' => BigDecimal::zero(), 'taxable' => $rest, 'tax' => 0];
        }
        $withIban = array_filter($this->banks->inUse($company->id()), static fn (BankRow $b): bool => '' !== $b->iban);
        $own = array_filter($withIban, static fn (BankRow $b): bool => $b->currency === $d['currency']);
        $bank = array_values([...$own, ...$withIban])[0]->iban ?? '';
        $spec = json_decode((string) $d['spec'], true);

        return UblWriter::write(
            new ElectronicInvoice(
                (string) $d['number'],
                'credit_note' === $d['kind'],
                Day::of((string) $d['document_date']),
                null === $d['due_date'] ? null : Day::of((string) $d['due_date']),
                (string) $d['currency'],
                new ElectronicParty(
                    $company->name,
                    $company->taxNumber,
                    $company->address,
                    $company->city,
                    $company->country,
                    'invoices@'.strtolower($company->code).'.example',
                ),
                new ElectronicParty(
                    (string) $d['name'],
                    (string) $d['tax_number'],
                    (string) $d['street'],
                    (string) $d['city'],
                    (string) $d['country'],
                    (string) $d['email'],
                ),
                $lines,
                $others,
                array_values($taxes),
                0,
                \is_array($spec) ? TermInWords::of(PaymentTerm::fromSpec($spec)) : '',
                '' === $d['reference'] ? (string) $d['number'] : (string) $d['reference'],
                (string) $d['description'],
                $bank,
                InvoicePrint::reference((string) $d['number']),
                (string) $this->db->fetchOne('SELECT number FROM document WHERE id = ?', [$d['against_id']]),
            ),
        );
    }

    /** @return array{string, BigDecimal} */
    private static function category(?string $rate, bool $reverse): array
    {
        $percent = BigDecimal::of($rate ?? '0')->stripTrailingZeros();

        return match (true) {
            null === $rate => ['E', BigDecimal::zero()],
            $reverse => ['AE', BigDecimal::zero()],
            $percent->isZero() => ['Z', $percent],
            default => ['S', $percent],
        };
    }
}
