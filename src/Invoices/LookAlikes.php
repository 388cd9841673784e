<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\StatementCheck;

/**
 * Documents that may be the same one entered before: same party, and number alike after removing punctuation and
 * leading zeros, or same amount within the company's number of days. Source: product.md, complaints.
 */
final readonly class LookAlikes
{
    public function __construct(private Connection $db, private Settings $settings)
    {
    }

    public static function key(string $number): string
    {
        return StatementCheck::key($number);
    }

    /**
     * @param int|null $exceptId the draft that it is; of two alike drafts the later one is asked about
     *
     * @return list<array{id: int, number: ?string, their_number: string, document_date: ?string, total: int, currency: string,
     *     why: string}>
     */
    public function of(
        int $companyId,
        Side $side,
        ?int $partyId,
        string $number,
        ?int $total,
        ?Day $date,
        ?int $exceptId = null,
    ): array {
        if (null === $partyId) {
            return [];
        }
        $days = $this->settings->of($companyId)->lookAlikeDays();
        $key = self::key($number);
        $date ??= Day::of('1905-01-01');
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT id, number, their_number, document_date, total, currency, their_key
            FROM document
            WHERE company_id = ? AND party_id = ? AND side = ? AND kind IN ('invoice', 'credit_note', 'debit_note')
                AND state <> 'reversed' AND id <> ? AND (state <> 'draft' OR ? = 0 OR id < ?) AND ((their_key = ? AND their_key <> '')
                OR (total = ? AND total <> 0 AND document_date BETWEEN ? AND ?))
            ORDER BY id DESC
            LIMIT 5
            SQL
            ,
            [
                $companyId,
                $partyId,
                $side->value,
                $exceptId ?? 0,
                $exceptId ?? 0,
                $exceptId ?? 0,
                $key,
                $total ?? 0,
                $date->plusDays(-$days)->iso(),
                $date->plusDays($days)->iso(),
            ],
        );

        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'number' => null === $r['number'] ? null : (string) $r['number'],
                'their_number' => (string) $r['their_number'],
                'document_date' => null === $r['document_date'] ? null : (string) $r['document_date'],
                'total' => (int) $r['total'],
                'currency' => (string) $r['currency'],
                'why' => '' !== $key && $r['their_key'] === $key
                        ? 'number alike'
                        : \sprintf('same amount within %d days', $days),
            ],
            $rows,
        );
    }
}
