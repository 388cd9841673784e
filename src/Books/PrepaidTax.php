<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Settlement\SettlementDraft;
use Nelbix\Core\Tax\PrepaymentTax;

/** Tax on customer prepayments, where their code says so: what of it goes back as they are placed. Source: rules.md, Journal entries. */
final readonly class PrepaidTax
{
    public function __construct(private Connection $db, private Chart $chart)
    {
    }

    /**
     * @param list<int> $items any; those that are no taxed prepayments are left out
     *
     * @return array<int, TaxOfPrepayment> by item
     */
    public function of(Actor $actor, array $items): array
    {
        $found = [];
        foreach (array_chunk(array_values(array_unique($items)), 1000) as $chunk) {
            $rows = $this->db->iterateAssociative(
                <<<'SQL'
                SELECT i.id, i.currency, t.tax, d.rate, c.account_id, COALESCE(SUM(x.tax), 0) AS gone, COALESCE(SUM(x.base), 0) AS gone_base
                FROM open_item i
                JOIN document d ON d.id = i.document_id AND d.kind IN ('receipt', 'prepayment') AND d.reverses_id IS NULL
                JOIN document_tax t ON t.document_id = d.id
                JOIN tax_code c ON c.id = t.tax_code_id
                LEFT JOIN (
                    SELECT p.item_id, p.tax, p.base
                    FROM prepaid_tax p
                    JOIN settlement s ON s.id = p.settlement_id AND s.undone_on IS NULL
                    WHERE p.item_id IN (:items)
                ) x ON x.item_id = i.id
                WHERE i.id IN (:items) AND i.kind = 'prepayment' AND i.side = 'receivables'
                GROUP BY i.id, i.currency, t.tax, d.rate, c.account_id
                SQL
                ,
                ['items' => $chunk],
                ['items' => ArrayParameterType::INTEGER],
            );
            foreach ($rows as $r) {
                $tax = (int) $r['tax'];
                $base = InvoiceEntry::base(
                    $tax,
                    (string) $r['currency'],
                    $actor->baseCurrency,
                    BigDecimal::of((string) $r['rate']),
                );
                $found[(int) $r['id']] = new TaxOfPrepayment(
                    (int) $r['id'],
                    (int) $r['account_id'],
                    $this->chart->role($actor->companyId, AccountRole::TaxOnCustomerPrepayments),
                    $tax,
                    $base,
                    $tax - (int) $r['gone'],
                    $base - (int) $r['gone_base'],
                );
            }
        }

        return $found;
    }

    /**
     * The settlement with what of the tax goes back by it.
     *
     * @param array<int, TaxOfPrepayment> $taxes by item
     */
    public static function within(SettlementDraft $draft, array $taxes, string $text): SettlementDraft
    {
        $prepaid = $lines = [];
        foreach ($draft->lines as $line) {
            $of = $taxes[$line->item->id] ?? null;
            if (null === $of) {
                continue;
            }
            $closes = $line->item->open === $line->applied;
            [$original, $applied] = [abs($line->item->original), abs($line->applied)];
            $tax = PrepaymentTax::share($of->tax, $original, $applied, $of->left, $closes);
            $base = PrepaymentTax::share($of->base, $original, $applied, $of->leftBase, $closes);
            if (0 === $tax && 0 === $base) {
                continue;
            }
            $prepaid[] = ['item' => $line->item->id, 'tax' => $tax, 'base' => $base];
            $lines[] = new DraftLine($of->outputAccount, $base, $tax, $text);
            $lines[] = new DraftLine($of->prepaidAccount, -$base, -$tax, $text);
        }

        return [] === $prepaid
            ? $draft
            : new SettlementDraft(
                $draft->lines,
                $draft->adjustments,
                $draft->exchange,
                JournalDraft::of($draft->entry->currency, [...$draft->entry->lines, ...$lines]),
                $prepaid,
            );
    }

    /** @param list<array{Settlement, array{item: int, tax: int, base: int}}> $taken what went back by which settlement */
    public function keep(array $taken): void
    {
        foreach ($taken as [$settlement, $of]) {
            $this->db->insert('prepaid_tax', [
                'settlement_id' => $settlement->id(),
                'item_id' => $of['item'],
                'tax' => $of['tax'],
                'base' => $of['base'],
            ]);
        }
    }
}
