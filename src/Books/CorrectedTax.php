<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Settlement\AdjustmentKind;
use Nelbix\Core\Tax\TaxCalculator;
use Nelbix\Core\Tax\TaxCode;
use Nelbix\Core\Tax\TaxLine;
use Nelbix\Core\Tax\TaxResult;

/** The tax inside a discount or a bad debt, for codes that say it corrects tax; valued at the invoice's rate. */
final readonly class CorrectedTax
{
    public function __construct(private Connection $db, private CodeBook $codes)
    {
    }

    /**
     * The taxes of the documents that items come from, of those with a code that a discount or a bad debt corrects. One query however
     * many.
     *
     * @param list<int> $itemIds
     *
     * @return array<int, non-empty-list<array<string, mixed>>> by item
     */
    public function of(array $itemIds): array
    {
        $found = [];
        foreach (array_chunk($itemIds, 1000) as $ids) {
            $in = implode(',', array_map('intval', $ids));
            $origin = Origin::table("i.id IN ($in)");
            $rows = $this->db->iterateAssociative(
                <<<SQL
                WITH $origin
                SELECT o.item_id, c.code, c.rate, c.account_id, c.reverse_account_id, c.inclusive, c.recoverable_percent,
                    c.discount_corrects_tax,
                    c.bad_debt_corrects_tax, t.net, t.tax, t.recoverable, d.net AS document_net, d.rate AS document_rate
                FROM origin o
                JOIN document d ON d.id = o.document_id
                JOIN document_tax t ON t.document_id = d.id
                JOIN tax_code c ON c.id = t.tax_code_id
                WHERE o.carries_on = 0 AND EXISTS (SELECT 1 FROM document_tax u JOIN tax_code k ON k.id = u.tax_code_id
                    WHERE u.document_id = d.id AND (k.discount_corrects_tax = 1 OR k.bad_debt_corrects_tax = 1))
                ORDER BY o.item_id, c.code
                SQL
                ,
            );
            foreach ($rows as $r) {
                $found[(int) $r['item_id']][] = $r;
            }
        }

        return $found;
    }

    /**
     * The same of an invoice that is only planned.
     *
     * @param list<int> $itemIds under which its items go
     *
     * @return array<int, non-empty-list<array<string, mixed>>> by item
     */
    public function planned(Actor $actor, TaxResult $tax, BigDecimal $rate, array $itemIds): array
    {
        $rows = [];
        $corrects = false;
        foreach ($this->codes->taxCodes($actor->companyId) as $record) {
            $line = $tax->taxes[$record->code] ?? null;
            if (null !== $line) {
                $corrects = $corrects || $record->discountCorrectsTax;
                $rows[] = [
                    'code' => $record->code,
                    'rate' => (string) $line->code->rate,
                    'account_id' => $record->accountId,
                    'reverse_account_id' => $record->reverseAccountId,
                    'inclusive' => $line->code->inclusive,
                    'recoverable_percent' => (string) ($line->code->recoverablePercent ?? '100'),
                    'discount_corrects_tax' => $line->code->discountCorrectsTax,
                    'bad_debt_corrects_tax' => false,
                    'net' => $line->net,
                    'tax' => $line->tax,
                    'recoverable' => $line->recoverable,
                    'document_net' => $tax->net,
                    'document_rate' => (string) $rate,
                ];
            }
        }

        return [] === $rows || !$corrects ? [] : array_fill_keys($itemIds, $rows);
    }

    /**
     * @param non-empty-list<array<string, mixed>> $rows of the item, from of()
     * @param int $amount the discount or what is written off, in the opposite sign of the item
     *
     * @return list<array{account: int, amount: int, base: int}>
     */
    public static function parts(
        array $rows,
        OpenItem $item,
        int $amount,
        string $baseCurrency,
        AdjustmentKind $for = AdjustmentKind::Discount,
    ): array {
        $says = AdjustmentKind::BadDebt === $for ? 'bad_debt_corrects_tax' : 'discount_corrects_tax';
        if ([] === array_filter(array_column($rows, $says))) {
            return [];
        }
        $taxes = [];
        $accounts = [];
        foreach ($rows as $r) {
            $code = new TaxCode(
                (string) $r['code'],
                BigDecimal::of($r['rate']),
                (bool) $r['inclusive'],
                BigDecimal::of($r['recoverable_percent']),
                null !== $r['reverse_account_id'],
                (bool) $r[$says],
            );
            $taxes[$code->code] = new TaxLine(
                $code,
                (int) $r['net'],
                (int) $r['tax'],
                Side::Payables === $item->side ? (int) $r['recoverable'] : (int) $r['tax'],
            );
            $accounts[$code->code] = [
                (int) $r['account_id'],
                null === $r['reverse_account_id'] ? null : (int) $r['reverse_account_id'],
            ];
        }
        $rate = BigDecimal::of($rows[0]['document_rate']);
        $sign = $amount < 0 ? -1 : 1;
        $parts = [];
        $corrected = TaxCalculator::correctedBy(abs($amount), (int) $rows[0]['document_net'], $taxes);
        foreach ($corrected->input as $name => $tax) {
            // of receivables the one account holds the output tax
            $lines = [
                [$accounts[$name][0], $sign * $tax],
                [$accounts[$name][1], -$sign * ($corrected->output[$name] ?? 0)],
            ];
            foreach ($lines as [$account, $part]) {
                if (null !== $account && 0 !== $part) {
                    $base = InvoiceEntry::base(abs($part), $item->currency, $baseCurrency, $rate);
                    $parts[] = ['account' => $account, 'amount' => $part, 'base' => $part < 0 ? -$base : $base];
                }
            }
        }

        return $parts;
    }
}
