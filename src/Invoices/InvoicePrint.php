<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Platform\Company;
use Nelbix\Core\Formats\CreditorReference;
use Nelbix\Core\Formats\Iban;
use Nelbix\Core\Refused;
use Nelbix\Core\Terms\PaymentTerm;
use Nelbix\Core\Terms\TermInWords;

/** What stands on the paper of customer invoices. A few queries for any number of them. */
final readonly class InvoicePrint
{
    public function __construct(private Connection $db, private BankAccounts $banks)
    {
    }

    /**
     * @param list<int> $ids of posted customer invoices and notes
     *
     * @return list<array<string, mixed>> in the order of $ids; others are left out
     */
    public function of(Company $company, array $ids): array
    {
        if ([] === $ids) {
            return [];
        }
        $many = fn (string $sql): array => $this->grouped($sql, $ids);
        $documents = $this->db->fetchAllAssociativeIndexed(
            <<<SQL
            SELECT d.id AS k, d.id, d.number, d.kind, d.document_date, d.due_date, d.currency, d.net, d.tax, d.total, d.description,
                d.reference, p.code, p.name, p.street, p.city, p.country, p.tax_number, p.email, t.spec
            FROM document d
            JOIN party p ON p.id = d.party_id
            LEFT JOIN payment_term t ON t.id = d.term_id
            WHERE d.company_id = ? AND d.side = 'receivables' AND d.state <> 'draft'
                AND d.kind IN ('invoice', 'credit_note', 'debit_note', 'finance_charge') AND d.id IN (?)
            SQL
            ,
            [$company->id(), $ids],
            [1 => ArrayParameterType::INTEGER],
        );
        $lines = $many(
            <<<'SQL'
            SELECT l.document_id, l.net, l.text, l.quantity, l.price, l.allowance, t.code AS tax_code
            FROM document_line l
            LEFT JOIN tax_code t ON t.id = l.tax_code_id
            WHERE l.document_id IN (?)
            ORDER BY l.document_id, l.position
            SQL
            ,
        );
        $taxes = $many(
            <<<'SQL'
            SELECT d.document_id, t.text, d.net, d.tax
            FROM document_tax d
            JOIN tax_code t ON t.id = d.tax_code_id
            WHERE d.document_id IN (?)
            ORDER BY d.document_id, d.id
            SQL
            ,
        );
        $parts = $many(
            'SELECT document_id, due_date, original FROM open_item WHERE document_id IN (?) ORDER BY document_id, part',
        );
        $discounts = $many(
            <<<'SQL'
            SELECT i.document_id, x.through, x.percent, x.amount
            FROM item_discount x
            JOIN open_item i ON i.id = x.item_id
            WHERE i.document_id IN (?)
            ORDER BY i.document_id, x.through
            SQL
            ,
        );
        $banks = $this->banks->inUse($company->id());
        $printed = [];
        foreach ($ids as $id) {
            $d = $documents[$id] ?? null;
            if (null === $d) {
                continue;
            }
            $own = array_values(array_filter($banks, static fn (BankRow $b): bool => $b->currency === $d['currency']));
            $bank = $own[0] ?? ($banks[0] ?? null);
            $printed[] = [
                'company' => $company,
                'd' => $d,
                'lines' => $lines[$id] ?? [],
                'taxes' => $taxes[$id] ?? [],
                'parts' => $parts[$id] ?? [],
                'discounts' => $discounts[$id] ?? [],
                'bank' => null === $bank
                        ? null
                        : [
                            'name' => $bank->name,
                            'bic' => $bank->bic,
                            'iban' => '' === $bank->iban ? '' : Iban::grouped($bank->iban),
                        ],
                'terms' => \is_string($d['spec']) ? self::words($d['spec']) : '',
                'reference' => self::reference((string) $d['number']),
            ];
        }

        return $printed;
    }

    /** The payment reference with check digits that the payer is asked to name. Source: ISO 11649. */
    public static function reference(string $number): string
    {
        try {
            return CreditorReference::of($number);
        } catch (Refused) {
            return $number;
        }
    }

    private static function words(string $spec): string
    {
        $read = json_decode($spec, true);

        return \is_array($read) ? TermInWords::of(PaymentTerm::fromSpec($read)) : '';
    }

    /**
     * @param list<int> $ids
     *
     * @return array<int, list<array<string, mixed>>> by document
     */
    private function grouped(string $sql, array $ids): array
    {
        $by = [];
        foreach ($this->db->fetchAllAssociative($sql, [$ids], [ArrayParameterType::INTEGER]) as $row) {
            $by[(int) $row['document_id']][] = $row;
        }

        return $by;
    }
}
