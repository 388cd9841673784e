<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Placement\ReadingRule;

/** Reading rules, and what one of them would have taken of past lines. */
final readonly class RuleQuery
{
    /** A rule is tried on so many of the latest lines. */
    private const TRIED = 5_000;

    public function __construct(private Connection $db)
    {
    }

    /** @return list<array<string, mixed>> in their order, those that are retired at the end */
    public function all(int $companyId): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT r.*, b.name AS bank
            FROM reading_rule r
            LEFT JOIN bank_account b ON b.id = r.bank_account_id
            WHERE r.company_id = ?
            ORDER BY r.retired, r.place, r.id
            SQL
            ,
            [$companyId],
        );

        return array_map(
            static fn (array $r): array => [
                ...$r,
                'says' => RuleParts::words((array) json_decode((string) $r['parts'], true)),
            ],
            $rows,
        );
    }

    /** @return array<string, mixed>|null */
    public function one(int $companyId, int $id): ?array
    {
        return $this->db->fetchAssociative(
            'SELECT r.*, b.code AS bank_code FROM reading_rule r LEFT JOIN bank_account b ON b.id = r.bank_account_id '.
                'WHERE r.company_id = ? AND r.id = ?',
            [$companyId, $id],
        ) ?:
            null;
    }

    /**
     * What it would have taken of past lines, and how many of those went where it says.
     *
     * @return array{tried: int, fits: int, waiting: int, examples: list<array<string, mixed>>}
     */
    public function tried(int $companyId, ReadingRule $rule, ?int $bankId): array
    {
        $tried = $fits = $waiting = 0;
        $examples = [];
        foreach (
            $this->db->iterateAssociative(
                \sprintf(
                    <<<'SQL'
                    SELECT l.id, l.day, l.amount, l.text, l.reference, l.party, l.account, l.check_number, l.reversal, l.waiting,
                        b.currency, b.name AS bank
                    FROM statement_line l
                    JOIN bank_account b ON b.id = l.bank_account_id
                    WHERE l.company_id = ?%s
                    ORDER BY l.id DESC
                    LIMIT %d
                    SQL
                    ,
                    null === $bankId ? '' : ' AND l.bank_account_id = '.$bankId,
                    self::TRIED,
                ),
                [$companyId],
            ) as $r
        ) {
            ++$tried;
            if (!$rule->fits(Line::toFind(['waiting' => $r['amount']] + $r))) {
                continue;
            }
            ++$fits;
            $waiting += 0 === (int) $r['waiting'] ? 0 : 1;
            if (\count($examples) < 10) {
                $examples[] = $r;
            }
        }

        return ['tried' => $tried, 'fits' => $fits, 'waiting' => $waiting, 'examples' => $examples];
    }
}
