<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

use Doctrine\DBAL\Connection;
use Nelbix\App\Close\Seal\CheckSeal;
use Nelbix\App\Close\Seal\SealHead;
use Nelbix\App\Ledger\Chart;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\TieOut\Explanation;

/** Checks what must always hold. Source: rules.md, the seven checks, and the seal. Each finding is a sentence that names the record. */
final readonly class Verify
{
    public const CHECKS = [
        1 => 'entries balance and their numbers have no gap',
        2 => 'items: original = open + applied, and open lies between zero and original',
        3 => 'settlements add up to zero',
        4 => 'control accounts = open items + bypass entries, as of any day',
        5 => 'every check number is accounted for once',
        6 => 'payments = their lines = their checks, and what is posted agrees with itself row by row',
        7 => 'every posted document has its entry, and every party ledger entry its document',
        8 => 'the seal: nothing that was posted or signed off has changed since',
    ];

    public function __construct(
        private Connection $db,
        private TieOut\TieOutQuery $tieOut,
        private VerifyRows $rows,
        private CheckSeal $seal,
        private TieOut\CheckSignOffs $signOffs,
    ) {
    }

    /** @return array<int, list<string>> findings by check; all empty when everything holds */
    public function of(int $companyId): array
    {
        return iterator_to_array($this->each($companyId));
    }

    /**
     * @param SealHead|null $head of the seal, as it was written down outside
     *
     * @return \Generator<int, list<string>> the same, a check after another as it is through
     */
    public function each(int $companyId, ?SealHead $head = null): \Generator
    {
        yield 1 => $this->entries($companyId);
        yield 2 => $this->items($companyId);
        yield 3 => $this->settlements($companyId);
        yield 4 => $this->controls($companyId);
        yield 5 => $this->checks($companyId);
        yield 6 => [
            ...array_merge(
                ...array_map(fn (string $sql): array => $this->find($sql, $companyId), VerifyMoney::queries()),
            ),
            ...$this->rows->of($companyId),
        ];
        yield 7 => $this->documents($companyId);
        yield 8 => [...$this->seal->of($companyId, $head), ...$this->signOffs->of($companyId)];
    }

    /** @return list<string> */
    private function entries(int $c): array
    {
        return [
            ...$this->find(
                <<<SQL
                SELECT CONCAT(e.number, ' is out of balance by ', SUM(l.base))
                FROM journal_entry e
                LEFT JOIN journal_line l ON l.entry_id = e.id
                WHERE e.company_id = ?
                GROUP BY e.id, e.number
                HAVING COALESCE(SUM(l.base), 1) <> 0
                SQL
                ,
                $c,
            ),
            ...$this->find(
                <<<SQL
                SELECT CONCAT('the entries of ', year, ' have numbers up to ', MAX(sequence), ' but are ', COUNT(*))
                FROM journal_entry
                WHERE company_id = ?
                GROUP BY year
                HAVING MAX(sequence) <> COUNT(*)
                SQL
                ,
                $c,
            ),
        ];
    }

    /** @return list<string> */
    private function items(int $c): array
    {
        return $this->find(
            <<<SQL
            SELECT CONCAT('item ', i.number, ': original ', i.original, ' / ', i.original_base, ', open ', i.open, ' / ',
                i.open_base, ', applied ', COALESCE(t.a, 0), ' / ', COALESCE(t.b, 0))
            FROM open_item i
            LEFT JOIN (SELECT l.item_id, SUM(l.applied) AS a, SUM(l.applied_base) AS b FROM settlement_line l JOIN settlement s
                ON s.id = l.settlement_id WHERE s.company_id = ? AND s.undone_on IS NULL GROUP BY l.item_id) t ON t.item_id = i.id
            WHERE i.company_id = ? AND (i.original <> i.open + COALESCE(t.a, 0)
                OR i.original_base <> i.open_base + COALESCE(t.b, 0) OR i.open * SIGN(i.original) < 0
                OR ABS(i.open) > ABS(i.original) OR (i.open = 0 AND i.open_base <> 0))
            SQL
            ,
            $c,
            $c,
        );
    }

    /** @return list<string> */
    private function settlements(int $c): array
    {
        return [
            ...$this->find(
                <<<SQL
                SELECT CONCAT('settlement ', s.id, ' is off by ', l.a + COALESCE(j.a, 0))
                FROM settlement s
                JOIN (SELECT settlement_id, SUM(applied) AS a FROM settlement_line GROUP BY settlement_id) l
                    ON l.settlement_id = s.id
                LEFT JOIN (SELECT settlement_id, SUM(amount) AS a FROM settlement_adjustment GROUP BY settlement_id) j
                    ON j.settlement_id = s.id
                WHERE s.company_id = ? AND l.a + COALESCE(j.a, 0) <> 0
                SQL
                ,
                $c,
            ),
            ...$this->find(
                <<<SQL
                SELECT CONCAT('prepayment ', i.number, ' has tax of ', t.tax, ', given back ', COALESCE(SUM(x.tax), 0), ', open ', i.open)
                FROM open_item i
                JOIN document d ON d.id = i.document_id AND d.state = 'posted' AND d.kind IN ('receipt', 'prepayment')
                JOIN document_tax t ON t.document_id = d.id
                LEFT JOIN prepaid_tax x ON x.item_id = i.id
                    AND EXISTS (SELECT 1 FROM settlement s WHERE s.id = x.settlement_id AND s.undone_on IS NULL)
                WHERE i.company_id = ? AND i.kind = 'prepayment' AND i.side = 'receivables'
                GROUP BY i.id, i.number, i.open, t.tax
                HAVING COALESCE(SUM(x.tax), 0) > t.tax OR (i.open = 0 AND COALESCE(SUM(x.tax), 0) <> t.tax)
                SQL
                ,
                $c,
            ),
            ...$this->find(
                <<<SQL
                SELECT CONCAT('the undo of settlement ', s.id, ' lacks its reversing entry')
                FROM settlement s
                JOIN journal_entry e ON e.source_kind = 'settlement' AND e.source_id = s.id AND e.reverses_id IS NULL
                LEFT JOIN journal_entry r ON r.reverses_id = e.id
                WHERE s.company_id = ? AND s.undone_on IS NOT NULL AND r.id IS NULL
                SQL
                ,
                $c,
            ),
        ];
    }

    /** @return list<string> */
    private function controls(int $c): array
    {
        $found = [];
        $last = $this->db->fetchOne(
            <<<'SQL'
            SELECT GREATEST(MAX(l.posting_date), COALESCE((SELECT MAX(last_moved_on) FROM open_item WHERE company_id = ?),
                '1900-01-01'))
            FROM journal_line l
            JOIN journal_entry e ON e.id = l.entry_id
            WHERE e.company_id = ?
            SQL
            ,
            [$c, $c],
        );
        if (!\is_string($last)) {
            return [];
        }
        foreach ($this->tieOut->of($c, Day::of($last), false) as $row) {
            foreach ($row['tie']->explainedBy as $explanation) {
                // every movement is compared on its own day, so a day that does not tie shows here even when a later one makes up for it
                if (Explanation::BYPASS !== $explanation->why) {
                    $found[] = \sprintf(
                        '%s %s: %s on %s, %s, %d',
                        $row['account'],
                        $row['name'],
                        $explanation->source,
                        $explanation->date,
                        $explanation->why,
                        $explanation->amount,
                    );
                }
            }
        }

        return $found;
    }

    /** @return list<string> */
    private function checks(int $c): array
    {
        return $this->find(
            <<<SQL
            SELECT CONCAT('check book ', b.name, ' has used numbers ', b.first_number, ' to ', b.next_number - 1, ' but registers ',
                COUNT(k.id))
            FROM check_book b
            JOIN bank_account a ON a.id = b.bank_account_id
            LEFT JOIN bank_check k ON k.check_book_id = b.id AND k.number BETWEEN b.first_number AND b.next_number - 1
            WHERE a.company_id = ?
            GROUP BY b.id, b.name, b.first_number, b.next_number
            HAVING COUNT(k.id) <> b.next_number - b.first_number
            SQL
            ,
            $c,
        );
    }

    /** @return list<string> */
    private function documents(int $c): array
    {
        $controls = Chart::controls();

        return [
            ...$this->find(
                <<<SQL
                SELECT CONCAT(d.number, ' has no entry')
                FROM document d
                LEFT JOIN journal_entry e ON e.source_kind = 'document' AND e.source_id = d.id
                WHERE d.company_id = ? AND d.state <> 'draft' AND d.total <> 0 AND e.id IS NULL AND d.kind <> 'claim'
                SQL
                ,
                $c,
            ),
            ...$this->find(
                <<<SQL
                SELECT CONCAT(g.number, ' has no entry')
                FROM delivery g
                LEFT JOIN journal_entry e ON e.source_kind = 'delivery' AND e.source_id = g.id AND e.reverses_id IS NULL
                WHERE g.company_id = ? AND g.amount <> 0 AND e.id IS NULL
                SQL
                ,
                $c,
            ),
            ...$this->find(
                <<<SQL
                SELECT CONCAT(e.number, ' reaches account ', a.number, ' without a document')
                FROM journal_entry e
                JOIN journal_line l ON l.entry_id = e.id
                JOIN account a ON a.id = l.account_id
                WHERE e.company_id = ? AND e.source_kind IS NULL
                    AND e.bypass = 0 AND a.role IN ($controls)
                SQL
                ,
                $c,
            ),
        ];
    }

    /** @return list<string> at most 20 */
    private function find(string $sql, int ...$parameters): array
    {
        return array_map('strval', $this->db->fetchFirstColumn($sql.' LIMIT 20', array_values($parameters)));
    }
}
