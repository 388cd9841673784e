<?php

declare(strict_types=1);

namespace Nelbix\App\Parties;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\Chart;
use Nelbix\Core\Ledger\Side;

/**
 * What a picker offers for what was typed: any part of a word of code, name, tax number or address, words in any order; the code that
 * matches first, then recent ones; nothing retired.
 */
final readonly class Pickers
{
    public function __construct(private Connection $db, private PartyWords $words)
    {
    }

    /**
     * @param string $what party, account, tax_code, terms, cost_center, department or project
     *
     * @return list<array{code: string, name: string}>
     */
    public function find(int $companyId, Side $side, string $what, string $q): array
    {
        $q = mb_substr(trim($q), 0, 40);
        $c = $companyId;

        /** @var list<array{code: string, name: string}> */
        return match ($what) {
            'party' => $this->parties($c, $side, $q),
            'account' => $this->few(
                'SELECT number AS code, name FROM account WHERE company_id = ? AND retired = 0 AND (role IS NULL '.
                    'OR role NOT IN ('.
                    Chart::controls().
                    '))',
                [$c],
                $q,
                'number',
                'name',
            ),
            'tax_code' => $this->few(
                'SELECT code, text AS name FROM tax_code WHERE company_id = ? AND retired = 0 AND used_by = ?',
                [$c, Side::Payables === $side ? 'purchase' : 'sale'],
                $q,
                'code',
                'text',
            ),
            'terms' => $this->few(
                "SELECT code, text AS name FROM payment_term WHERE company_id = ? AND retired = 0 AND used_by IN ('both', ?)",
                [$c, Side::Payables === $side ? 'vendors' : 'customers'],
                $q,
                'code',
                'text',
            ),
            default => $this->few(
                'SELECT code, name FROM analysis_code WHERE company_id = ? AND kind = ? AND retired = 0',
                [$c, $what],
                $q,
                'code',
                'name',
            ),
        };
    }

    /**
     * The one whose code was typed first, then the codes that begin so, then the recent ones.
     *
     * @return list<array<string, mixed>>
     */
    private function parties(int $companyId, Side $side, string $q): array
    {
        $begins = addcslashes($q, '%_\\').'%';
        $ids = '' === $q ? [] : $this->words->find($companyId, $side, $q);
        [$found, $with] =
            '' === $q
                ? ['1 = 1', []]
                : ['(code LIKE ? OR id IN ('.implode(',', [] === $ids ? [0] : $ids).'))', [$begins]];

        return $this->db->fetchAllAssociative(
            <<<SQL
            SELECT code, name
            FROM party
            WHERE company_id = ? AND side = ? AND retired = 0 AND $found
            ORDER BY code = ? DESC, code LIKE ? DESC, last_used_at IS NULL, last_used_at DESC, name
            LIMIT 12
            SQL
            ,
            [$companyId, $side->value, ...$with, $q, $begins],
        );
    }

    /**
     * Records of which a company has few: every typed word stands somewhere in code or name.
     *
     * @param list<int|string> $with
     *
     * @return list<array<string, mixed>>
     */
    private function few(string $select, array $with, string $q, string $code, string $name): array
    {
        foreach (preg_split('/\s+/', $q, -1, \PREG_SPLIT_NO_EMPTY) ?: [] as $word) {
            $like = addcslashes($word, '%_\\').'%';
            $select .= " AND ($code LIKE ? OR $name LIKE ?)";
            array_push($with, $like, '%'.$like);
        }

        return $this->db->fetchAllAssociative("$select ORDER BY $code = ? DESC, $code LIKE ? DESC, $code LIMIT 12", [
            ...$with,
            $q,
            addcslashes($q, '%_\\').'%',
        ]);
    }
}
