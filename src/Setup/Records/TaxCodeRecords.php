<?php

declare(strict_types=1);

namespace Nelbix\App\Setup\Records;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Setup\SaveTaxCode;

/** Tax codes. */
final readonly class TaxCodeRecords implements RecordKind
{
    public function __construct(private Connection $db, private SaveTaxCode $saveTaxCode)
    {
    }

    public function kinds(): array
    {
        return ['tax-codes' => ['title' => 'Tax codes', 'one' => 'tax code']];
    }

    public function fields(string $kind): array
    {
        $yes = ['' => 'no', 'yes' => 'yes'];

        return [
            new RecordField('code', 'Code', 'w-code', fixed: true),
            new RecordField('text', 'Text'),
            new RecordField('rate', 'Rate, %', 'w-code'),
            new RecordField('use', 'For a', choices: ['purchase' => 'purchase', 'sale' => 'sale']),
            new RecordField('account', 'Tax account', 'w-code', pick: 'account'),
            new RecordField('inclusive', 'Prices hold the tax', choices: $yes),
            new RecordField(
                'recoverable_percent',
                'Recoverable, %',
                'w-code',
                note: 'What is not recoverable belongs to the cost.',
            ),
            new RecordField(
                'reverse_account',
                'Reverse charge: the tax owed stands on',
                'w-code',
                pick: 'account',
                note: 'Empty: the vendor charges the tax.',
            ),
            new RecordField('discount_corrects_tax', 'A discount corrects the tax', shown: false, choices: $yes),
            new RecordField('bad_debt_corrects_tax', 'A bad debt corrects the tax', shown: false, choices: $yes),
            new RecordField('taxes_prepayments', 'Owed of prepayments, too', shown: false, choices: $yes),
        ];
    }

    public function rows(int $companyId, string $kind): array
    {
        $percent = static fn (mixed $v): string => (string) BigDecimal::of((string) $v)->stripTrailingZeros();

        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'retired' => (bool) $r['retired'],
                'values' => [
                    'code' => (string) $r['code'],
                    'text' => (string) $r['text'],
                    'rate' => $percent($r['rate']),
                    'use' => (string) $r['used_by'],
                    'account' => (string) $r['account'],
                    'inclusive' => (bool) $r['inclusive'] ? 'yes' : '',
                    'recoverable_percent' => $percent($r['recoverable_percent']),
                    'reverse_account' => (string) $r['reverse_account'],
                    'discount_corrects_tax' => (bool) $r['discount_corrects_tax'] ? 'yes' : '',
                    'bad_debt_corrects_tax' => (bool) $r['bad_debt_corrects_tax'] ? 'yes' : '',
                    'taxes_prepayments' => (bool) $r['taxes_prepayments'] ? 'yes' : '',
                ],
            ],
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT t.id, t.code, t.text, t.rate, t.used_by, t.inclusive, t.recoverable_percent, t.discount_corrects_tax,
                    t.bad_debt_corrects_tax, t.taxes_prepayments,
                    t.retired, a.number AS account, r.number AS reverse_account
                FROM tax_code t
                JOIN account a ON a.id = t.account_id
                LEFT JOIN account r ON r.id = t.reverse_account_id
                WHERE t.company_id = ?
                ORDER BY t.code
                SQL
                ,
                [$companyId],
            ),
        );
    }

    public function save(Actor $actor, string $kind, array $raw, ?int $id): int
    {
        return $this->saveTaxCode->save($actor, $raw, $id);
    }
}
