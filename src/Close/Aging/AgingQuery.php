<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Aging;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Books\OpenAsOf;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Aging\Ager;
use Nelbix\Core\Aging\AgingRow;
use Nelbix\Core\Aging\AgingSum;
use Nelbix\Core\Aging\Bucketing;
use Nelbix\Core\Aging\Credits;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** The aging of one side as of a day. The database sums per line, date and kind; the core puts the sums into buckets. */
final readonly class AgingQuery
{
    public function __construct(
        private Connection $db,
        private Settings $settings,
        private CostCenterShares $costCenters,
    ) {
    }

    /** Where the company shows credits, unless a person asks otherwise. */
    public function usual(int $companyId): Credits
    {
        return Credits::from($this->settings->of($companyId)->values['aging_credits']);
    }

    /** @return list<AgingLine> in order of code and currency; documents are no lines, AgingItems reads them page by page */
    public function lines(AgingCriteria $criteria): array
    {
        $byCurrency = [];
        foreach ($this->sums($criteria) as [$sum, $currency]) {
            $byCurrency[$currency][] = $sum;
        }
        $rows = [];
        foreach ($byCurrency as $currency => $sums) {
            foreach (Ager::age($sums, $criteria->asOf, $criteria->bucketing, $criteria->credits) as $key => $row) {
                $rows[] = [(string) $key, (string) $currency, $row];
            }
        }
        $names = $this->names($criteria->rows, array_values(array_unique(array_column($rows, 0))));
        $lines = array_map(
            static fn (array $r): AgingLine => new AgingLine($r[0], $names[$r[0]][0], $names[$r[0]][1], $r[1], $r[2]),
            $rows,
        );
        usort(
            $lines,
            static fn (AgingLine $a, AgingLine $b): int => [$a->code, $a->key, $a->currency] <=> [
                $b->code,
                $b->key,
                $b->currency,
            ],
        );

        return $lines;
    }

    /**
     * @param list<AgingLine> $lines
     *
     * @return array<string, AgingRow> by currency
     */
    public static function totals(array $lines, Bucketing $bucketing): array
    {
        $totals = [];
        foreach ($lines as $line) {
            $totals[$line->currency] = ($totals[$line->currency] ?? AgingRow::zero($bucketing))->plus($line->row);
        }
        ksort($totals);

        return $totals;
    }

    /** What is open on a day of everything, in base currency, whatever is asked to be shown of it. */
    public function all(AgingCriteria $criteria): int
    {
        $sum = 0;
        foreach (
            $this->sums(
                new AgingCriteria(
                    $criteria->companyId,
                    $criteria->side,
                    $criteria->asOf,
                    $criteria->bucketing,
                    rows: AgingBy::All,
                ),
            ) as [$one]
        ) {
            $sum += $one->amount;
        }

        return $sum;
    }

    /**
     * What the control accounts of a side hold on a day, in base currency, positive where items are: the foot of the aging.
     *
     * @return array<int, array{account: string, name: string, base: int}> by account id, in order of number
     */
    public function controls(int $companyId, Side $side, Day $asOf): array
    {
        $roles = array_map(static fn (AccountRole $r): string => $r->value, AccountRole::controlsOf($side));
        $accounts = [];
        foreach (
            $this->db->iterateAssociative(
                <<<'SQL'
                SELECT a.id, a.number, a.name, COALESCE(SUM(l.base), 0) AS base
                FROM account a
                LEFT JOIN journal_line l ON l.account_id = a.id AND l.posting_date <= ?
                WHERE a.company_id = ? AND a.role IN (?)
                GROUP BY a.id, a.number, a.name
                ORDER BY a.number
                SQL
                ,
                [$asOf->iso(), $companyId, $roles],
                [2 => ArrayParameterType::STRING],
            ) as $r
        ) {
            $accounts[(int) $r['id']] = [
                'account' => (string) $r['number'],
                'name' => (string) $r['name'],
                'base' => $side->ledgerSign() * (int) $r['base'],
            ];
        }

        return $accounts;
    }

    /** @return \Generator<int, array{AgingSum, string}> each with the currency of its amount */
    private function sums(AgingCriteria $criteria): \Generator
    {
        $sums = $this->read($criteria);
        yield from AgingBy::CostCenter === $criteria->rows ? $this->costCenters->of($sums) : $sums;
    }

    /** @return \Generator<int, array{AgingSum, string}> */
    private function read(AgingCriteria $criteria): \Generator
    {
        [$more, $with] = $criteria->where();
        $day = OpenAsOf::day($this->db, $criteria->companyId, $criteria->side, $criteria->asOf);
        [$open, $join, $where] = [$day->open($criteria->field()), $day->join(), $day->where()];
        [$key, $of, $column] = [$criteria->rows->key(), $criteria->rows->join(), $criteria->column()];
        $currency = $criteria->inDocumentCurrency ? 'i.currency' : "''";
        $order = AgingBy::CostCenter === $criteria->rows ? 'ORDER BY 1' : 'ORDER BY NULL';
        $rows = $this->db->executeQuery(
            <<<SQL
            SELECT $key AS line, $column AS d, i.kind, $currency AS cur, SUM($open) AS amount
            FROM open_item i
            $of
            $join
            WHERE i.company_id = :company AND i.side = :side AND $where$more
            GROUP BY 1, 2, 3, 4
            HAVING amount <> 0
            $order
            SQL
            ,
            $with,
        );
        $classes = [];
        foreach (DocumentKind::cases() as $kind) {
            $classes[$kind->value] = AgingSum::classOf($kind, $criteria->side);
        }
        foreach ($rows->iterateNumeric() as [$line, $date, $kind, $in, $amount]) {
            yield [new AgingSum((string) $line, (string) $date, $classes[(string) $kind], (int) $amount), (string) $in];
        }
    }

    /**
     * @param list<string> $keys
     *
     * @return array<string, array{string, string}> code and name by key
     */
    private function names(AgingBy $rows, array $keys): array
    {
        $sql = match ($rows) {
            AgingBy::Party => 'SELECT id, code, name FROM party WHERE id IN (?)',
            AgingBy::Account => 'SELECT id, number, name FROM account WHERE id IN (?)',
            AgingBy::CostCenter => 'SELECT id, code, name FROM analysis_code WHERE id IN (?)',
            default => null,
        };
        $names = [];
        if (null !== $sql && [] !== $keys) {
            foreach ($this->db->iterateNumeric($sql, [$keys], [ArrayParameterType::INTEGER]) as [$id, $code, $name]) {
                $names[(string) $id] = [(string) $code, (string) $name];
            }
        }
        foreach ($keys as $key) {
            $names[$key] ??= [
                $key,
                match (true) {
                    AgingBy::All === $rows => 'all that is open',
                    AgingBy::CostCenter === $rows => 'no cost center',
                    '' === $key => AgingBy::Group === $rows ? 'in no group' : 'nobody named',
                    default => $key,
                },
            ];
        }

        return $names;
    }
}
