<?php

declare(strict_types=1);

namespace Nelbix\App\Close\TieOut;

use Doctrine\DBAL\Connection;
use Nelbix\App\Platform\Keyset;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\TieOut\SignedOff;

/**
 * What was signed off, and what was posted into signed-off days since.
 *
 * @phpstan-type SignOffRow array{id: int, account_id: int, account: string, name: string, as_of: string, ledger: int, items: int,
 *     item_count: int, explained_by: list<array{source: string, date: string, amount: int, why: string, text: string, by: string}>,
 *     digest: string, note: string, signed_by: string, signed_at: string, moved: int, entries: int}
 */
final readonly class SignOffs
{
    public const PAGE = 200;

    public function __construct(private Connection $db)
    {
    }

    /** @return array<int, SignedOff> the last of each account on or before a day, by account id */
    public function last(int $companyId, Day $day): array
    {
        $last = [];
        foreach (
            $this->db->iterateNumeric(
                'SELECT account_id, as_of, ledger - items FROM sign_off WHERE company_id = ? AND as_of <= ? ORDER BY as_of',
                [$companyId, $day->iso()],
            ) as [$account, $asOf, $difference]
        ) {
            $last[(int) $account] = new SignedOff(Day::of((string) $asOf), (int) $difference);
        }

        return $last;
    }

    /**
     * @return list<SignOffRow> the newest first; moved is what later entries dated in signed-off days came to on the account, in its
     *                          normal sign
     */
    public function of(int $companyId, ?int $id = null): array
    {
        $one = null === $id ? '' : 'AND s.id = '.$id;
        $later = $this->db->fetchAllAssociativeIndexed(
            <<<SQL
            SELECT s.id, SUM(l.base) AS moved, COUNT(DISTINCT l.entry_id) AS entries
            FROM sign_off s
            JOIN journal_line l ON l.account_id = s.account_id AND l.posting_date <= s.as_of AND l.entry_id > s.last_entry_id
            WHERE s.company_id = ? $one
            GROUP BY s.id
            SQL
            ,
            [$companyId],
        );
        $rows = [];
        foreach (
            $this->db->iterateAssociative(
                <<<SQL
                SELECT s.id, s.account_id, a.number AS account, a.name, s.as_of, s.ledger, s.items, s.item_count, s.explained_by,
                    s.digest, s.note, u.name AS signed_by, s.signed_at, s.normal_sign
                FROM sign_off s
                JOIN account a ON a.id = s.account_id
                JOIN app_user u ON u.id = s.signed_by_id
                WHERE s.company_id = ? $one
                ORDER BY s.as_of DESC, a.number
                SQL
                ,
                [$companyId],
            ) as $r
        ) {
            foreach (['id', 'account_id', 'ledger', 'items', 'item_count'] as $int) {
                $r[$int] = (int) $r[$int];
            }
            $r['explained_by'] = json_decode((string) $r['explained_by'], true, 8, \JSON_THROW_ON_ERROR);
            $r['moved'] = (int) $r['normal_sign'] * (int) ($later[$r['id']]['moved'] ?? 0);
            $r['entries'] = (int) ($later[$r['id']]['entries'] ?? 0);
            $rows[] = $r;
        }

        /** @var list<SignOffRow> */
        return $rows;
    }

    /**
     * The items as they were signed off.
     *
     * @return array{rows: list<array<string, mixed>>, next: ?string}
     */
    public function items(int $signOffId, ?string $after, int $size = self::PAGE): array
    {
        $keyset = new Keyset(['i.id']);
        [$later, $place] = $keyset->after($after);
        $keys = $keyset->select();
        [$rows, $next] = $keyset->page(
            $this->db->fetchAllAssociative(
                "SELECT i.*, $keys FROM sign_off_item i WHERE i.sign_off_id = :id$later ORDER BY i.id LIMIT ".
                    ($size + 1),
                ['id' => $signOffId, ...$place],
            ),
            $size,
        );

        return ['rows' => $rows, 'next' => $next];
    }

    /** @return list<array{number: string, posting_date: string, text: string, by: string, created_at: string, base: int}> */
    public function later(int $signOffId): array
    {
        return array_map(
            static fn (array $r): array => [
                'number' => (string) $r['number'],
                'posting_date' => (string) $r['posting_date'],
                'text' => (string) $r['text'],
                'by' => (string) $r['by'],
                'created_at' => (string) $r['created_at'],
                'base' => (int) $r['base'],
            ],
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT e.number, e.posting_date, e.text, u.name AS `by`, e.created_at, s.normal_sign * SUM(l.base) AS base
                FROM sign_off s
                JOIN journal_line l ON l.account_id = s.account_id AND l.posting_date <= s.as_of AND l.entry_id > s.last_entry_id
                JOIN journal_entry e ON e.id = l.entry_id
                JOIN app_user u ON u.id = e.created_by_id
                WHERE s.id = ?
                GROUP BY e.id, e.number, e.posting_date, e.text, u.name, e.created_at, s.normal_sign
                ORDER BY e.id
                LIMIT 500
                SQL
                ,
                [$signOffId],
            ),
        );
    }
}
