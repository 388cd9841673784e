<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\LotOf;

/**
 * Reads what was posted of a file: settlements, entries by hand and deliveries. Documents have a list of their own.
 *
 * @phpstan-type LotRecord array{id: int, number: ?string, day: string, words: string, amount: int, currency: string, off: bool}
 */
final readonly class LotRecords
{
    /** So many of the latest stand on the page. */
    public const LISTED = 100;

    /** off: it was taken back. */
    private const READ = [
        LotOf::Settlements->value => <<<'SQL'
        SELECT s.id, NULL AS number, s.settled_on AS day, (
                SELECT GROUP_CONCAT(i.number ORDER BY i.id SEPARATOR ', ')
                FROM settlement_line l
                JOIN open_item i ON i.id = l.item_id
                WHERE l.settlement_id = s.id
            ) AS words, (
                SELECT SUM(GREATEST(l.applied, 0)) FROM settlement_line l WHERE l.settlement_id = s.id
            ) AS amount, s.currency, s.undone_on IS NOT NULL AS off
        FROM posting_lot_record r
        JOIN settlement s ON s.id = r.record_id
        SQL,
        LotOf::Entries->value => <<<'SQL'
        SELECT m.id, e.number, m.day, m.text AS words, m.amount, c.base_currency AS currency, r.taken_back AS off
        FROM posting_lot_record r
        JOIN manual_entry m ON m.id = r.record_id
        JOIN company c ON c.id = m.company_id
        LEFT JOIN journal_entry e ON e.id = m.entry_id
        SQL,
        LotOf::Deliveries->value => <<<'SQL'
        SELECT g.id, g.number, g.delivered_on AS day, CONCAT(p.name, ' ', g.note_number) AS words, g.amount, g.currency,
            g.reversed_on IS NOT NULL AS off
        FROM posting_lot_record r
        JOIN delivery g ON g.id = r.record_id
        JOIN party p ON p.id = g.party_id
        SQL,
    ];

    public function __construct(private Connection $db)
    {
    }

    /** @return list<LotRecord> the latest first */
    public function latest(int $lotId, LotOf $holds): array
    {
        $rows = [];
        $sql = self::READ[$holds->value] ?? null;
        $found =
            null === $sql
                ? []
                : $this->db->fetchAllAssociative(
                    $sql.' WHERE r.lot_id = ? ORDER BY r.record_id DESC LIMIT '.self::LISTED,
                    [$lotId],
                );
        foreach ($found as $r) {
            $rows[] = [
                'id' => (int) $r['id'],
                'number' => null === $r['number'] ? null : (string) $r['number'],
                'day' => (string) $r['day'],
                'words' => (string) $r['words'],
                'amount' => (int) $r['amount'],
                'currency' => (string) $r['currency'],
                'off' => (bool) $r['off'],
            ];
        }

        return $rows;
    }
}
