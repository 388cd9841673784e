<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

use Doctrine\DBAL\Connection;

/** What a company's books come to, in a few figures: two databases whose figures agree hold the same books. */
final readonly class Proof
{
    public function __construct(private Connection $db)
    {
    }

    /** @return array<string, string> counts and SHA-256 sums by what they are of */
    public function of(int $companyId): array
    {
        return [
            'trial balance' => $this->sum(
                <<<'SQL'
                SELECT a.number, SUM(l.base), SUM(l.amount), COUNT(*)
                FROM account a
                JOIN journal_line l ON l.account_id = a.id
                WHERE a.company_id = ?
                GROUP BY a.id, a.number
                ORDER BY a.number
                SQL
                ,
                $companyId,
            ),
            'open items' => $this->sum(
                <<<'SQL'
                SELECT id, number, original, open, open_base, due_date, reserved_by_id
                FROM open_item
                WHERE company_id = ?
                ORDER BY id
                SQL
                ,
                $companyId,
            ),
            'seal' => $this->sum('SELECT n, HEX(chain) FROM seal_head WHERE company_id = ?', $companyId),
            'files' => $this->sum(
                <<<'SQL'
                SELECT id, subject, SHA2(content, 256)
                FROM stored_file
                WHERE company_id = ?
                UNION ALL
                SELECT id, 'bank file', SHA2(content, 256)
                FROM bank_file
                WHERE company_id = ?
                ORDER BY 2, 1
                SQL
                ,
                $companyId,
                $companyId,
            ),
            'people' => $this->sum(
                'SELECT user_id, role, approval_limit FROM membership WHERE company_id = ? ORDER BY user_id, role',
                $companyId,
            ),
        ];
    }

    private function sum(string $sql, int ...$companies): string
    {
        $sum = hash_init('sha256');
        $rows = 0;
        foreach ($this->db->iterateNumeric($sql, array_values($companies)) as $row) {
            hash_update(
                $sum,
                json_encode(array_map(static fn (mixed $v): string => (string) $v, $row), \JSON_THROW_ON_ERROR),
            );
            ++$rows;
        }

        return \sprintf('%d rows, %s', $rows, substr(hash_final($sum), 0, 32));
    }
}
