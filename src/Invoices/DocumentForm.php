<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Books\Document;
use Nelbix\Core\Ledger\LineKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Money\PricedAmount;

/** A posted document as the form would have been typed: to put it right, or to enter another like it. */
final readonly class DocumentForm
{
    public function __construct(private Connection $db)
    {
    }

    private function base(Document $d): string
    {
        return (string) $this->db->fetchOne('SELECT base_currency FROM company WHERE id = ?', [$d->companyId]);
    }

    /**
     * @param bool $same true gives number, dates, tax and what it took of deliveries too, false only what another document of the party
     *                   would share
     *
     * @return array<string, mixed> as InvoiceReader::read takes it
     */
    public function of(Document $d, bool $same): array
    {
        $lines = [];
        foreach (
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT COALESCE(m.delivery_line_id, '') AS delivery_line, COALESCE(m.order_line_id, '') AS order_line,
                    a.number AS account, l.amount, COALESCE(m.quantity, l.quantity) AS quantity, l.price, l.cost, l.kind,
                    IF(m.quantity < l.quantity, NULL, l.allowance) AS allowance, t.code AS tax_code, l.text, c.code AS cost_center,
                    p.code AS department, j.code AS project
                FROM document_line l
                JOIN account a ON a.id = l.account_id
                LEFT JOIN (
                    SELECT m.line_position, m.delivery_line_id, NULL AS order_line_id, m.quantity
                    FROM goods_move m
                    WHERE :same = 1 AND m.document_id = :document AND m.undone_on IS NULL
                    UNION ALL
                    SELECT w.line_position, NULL, w.order_line_id, w.open_quantity
                    FROM goods_awaited w
                    WHERE :same = 1 AND w.document_id = :document AND w.open_quantity > 0
                ) m ON m.line_position = l.position
                LEFT JOIN tax_code t ON t.id = l.tax_code_id
                LEFT JOIN analysis_code c ON c.id = l.cost_center_id
                LEFT JOIN analysis_code p ON p.id = l.department_id
                LEFT JOIN analysis_code j ON j.id = l.project_id
                WHERE l.document_id = :document
                ORDER BY l.position, m.delivery_line_id IS NULL, m.delivery_line_id
                SQL
                ,
                ['same' => (int) $same, 'document' => $d->id()],
            ) as $line
        ) {
            $plain = static fn (mixed $v): string => (string) BigDecimal::of((string) $v)->stripTrailingZeros();
            $amount =
                null === $line['quantity']
                    ? Money::of(
                        LineKind::from((string) $line['kind'])->sign() * (int) $line['amount'],
                        $d->currency,
                    )->decimal()
                    : PricedAmount::typed(
                        $plain($line['quantity']),
                        $plain($line['price']),
                        (int) $line['allowance'],
                        $d->currency,
                    );
            $lines[] = [
                ...array_map(
                    static fn (mixed $v): string => (string) $v,
                    array_diff_key($line, ['quantity' => 1, 'price' => 1, 'allowance' => 1]),
                ),
                'amount' => $amount,
                'cost' => null === $line['cost'] ? '' : Money::of((int) $line['cost'], $this->base($d))->decimal(),
            ];
        }
        [$party, $terms] = $this->db->fetchNumeric(
            <<<'SQL'
            SELECT p.code, t.code
            FROM document d
            JOIN party p ON p.id = d.party_id
            LEFT JOIN payment_term t ON t.id = d.term_id
            WHERE d.id = ?
            SQL
            ,
            [$d->id()],
        ) ?: ['', ''];
        $form = [
            'party' => (string) $party,
            'kind' => $d->kind->value,
            'description' => $d->description,
            'terms' => (string) $terms,
            'currency' => $d->currency,
            'lines' => $lines,
        ];
        if (Side::Receivables === $d->side) {
            $form += [
                'their_order' => $d->reference,
                'salesperson' => $d->salesperson,
                'commission_percent' => null === $d->commissionPercent
                        ? ''
                        : (string) BigDecimal::of($d->commissionPercent)->stripTrailingZeros(),
            ];
        }
        if (!$same) {
            return $form;
        }
        $typed = static fn (string $field): bool => \in_array($field, $d->typed ?? [], true);

        return [
            ...$form,
            'number' => Side::Payables === $d->side ? $d->theirNumber : ($typed('number') ? (string) $d->number : ''),
            'document_date' => $d->documentDate?->long() ?? '',
            'posting_date' => $d->postingDate?->long() ?? '',
            'due_date' => $typed('due_date') ? $d->dueDate?->long() ?? '' : '',
            'start_date' => $d->startDate?->long() ?? '',
            'rate' => BigDecimal::of($d->rate)->isEqualTo(1) || (null !== $d->typed && !$typed('rate'))
                    ? ''
                    : (string) BigDecimal::of($d->rate)->stripTrailingZeros(),
            'against' => null === $d->againstId
                    ? ''
                    : (string) $this->db->fetchOne('SELECT number FROM document WHERE id = ?', [$d->againstId]),
            'look_alike_reason' => $d->lookAlikeReason,
            'tax' => $this->typedTax($d, $typed),
        ];
    }

    /**
     * Tax is worked out anew unless it was typed.
     *
     * @param \Closure(string): bool $typed
     *
     * @return array<string, string> by code
     */
    private function typedTax(Document $d, \Closure $typed): array
    {
        $tax = [];
        $rows = $this->db->fetchAllKeyValue(
            'SELECT c.code, x.tax FROM document_tax x JOIN tax_code c ON c.id = x.tax_code_id WHERE x.document_id = ?',
            [$d->id()],
        );
        foreach ($rows as $code => $minor) {
            if ($typed('tax.'.$code)) {
                $tax[(string) $code] = Money::of((int) $minor, $d->currency)->decimal();
            }
        }

        return $tax;
    }
}
