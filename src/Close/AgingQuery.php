<?php

declare(strict_types=1);

namespace Nelbix\App\Close;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Books\OpenAsOf;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Aging\Ager;
use Nelbix\Core\Aging\AgingRow;
use Nelbix\Core\Aging\AgingSum;
use Nelbix\Core\Aging\Bucketing;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;

/** The aging of one side as of a day. The database sums per party, date and class; the core puts the sums into buckets. */
final readonly class AgingQuery
{
    public const BY = ['due' => 'due_date', 'document' => 'document_date', 'posting' => 'posting_date'];

    public function __construct(private Connection $db, private Settings $settings)
    {
    }

    /**
     * @param string $by a key of BY
     * @param string|null $currency a document currency, or null for base amounts of all
     *
     * @return array<int, array{party: string, name: string, row: AgingRow}> by party id, in order of party code
     */
    public function of(
        int $companyId,
        Side $side,
        Day $asOf,
        Bucketing $bucketing,
        string $by = 'due',
        ?string $currency = null,
        ?int $partyId = null,
    ): array {
        $column = self::BY[$by];
        $field = null === $currency ? '_base' : '';
        $parameters = ['company' => $companyId, 'side' => $side->value, 'day' => $asOf->iso()];
        $more = '';
        if (null !== $currency) {
            $more .= ' AND i.currency = :currency';
            $parameters['currency'] = $currency;
        }
        if (null !== $partyId) {
            $more .= ' AND i.party_id = :party';
            $parameters['party'] = $partyId;
        }
        $day = OpenAsOf::day($this->db, $companyId, $side, $asOf);
        [$open, $join, $where] = [$day->open($field), $day->join(), $day->where()];
        $rows = $this->db->executeQuery(
            <<<SQL
            SELECT i.party_id, i.$column AS d, i.kind, SUM($open) AS amount
            FROM open_item i
            $join
            WHERE i.company_id = :company AND i.side = :side AND $where$more
            GROUP BY i.party_id, i.$column, i.kind
            HAVING amount <> 0
            ORDER BY i.party_id
            SQL
            ,
            $parameters,
        );
        $sums = (static function () use ($rows, $side): iterable {
            foreach ($rows->iterateNumeric() as [$party, $date, $kind, $amount]) {
                // by what it is, not by its sign: an opposite item of a bounced receipt is a credit taken back
                $class = match (true) {
                    DocumentKind::from((string) $kind)->isPrepaid() => AgingSum::PREPAYMENT,
                    DocumentKind::from((string) $kind)->itemSign($side) < 0 => AgingSum::CREDIT,
                    default => AgingSum::ITEM,
                };
                yield new AgingSum((int) $party, (string) $date, $class, (int) $amount);
            }
        })();
        $aged = Ager::age(
            $sums,
            $asOf,
            $bucketing,
            'netted' === $this->settings->of($companyId)->values['aging_credits'],
        );
        // customers stand among the vendors while a refund is on its way to them
        $result = $this->named($aged, 'company_id = ? AND side = ?', [$companyId, $side->value]);
        $others = array_keys(array_diff_key($aged, $result));
        if ([] !== $others) {
            $result += $this->named($aged, 'id IN ('.implode(',', $others).')', []);
            uasort($result, static fn (array $a, array $b): int => strcmp($a['party'], $b['party']));
        }

        return $result;
    }

    /** What the control accounts of a side hold on a day, in base currency, positive where items are: the foot of the aging. */
    public function control(int $companyId, Side $side, Day $asOf): int
    {
        $roles = array_map(static fn (AccountRole $r): string => $r->value, AccountRole::controlsOf($side));

        return $side->ledgerSign() *
            (int) $this->db->fetchOne(
                <<<'SQL'
                SELECT COALESCE(SUM(l.base), 0)
                FROM journal_line l
                JOIN account a ON a.id = l.account_id
                WHERE a.company_id = ? AND a.role IN (?) AND l.posting_date <= ?
                SQL
                ,
                [$companyId, $roles, $asOf->iso()],
                [1 => ArrayParameterType::STRING],
            );
    }

    /**
     * @param array<int, AgingRow> $aged by party id
     * @param list<int|string> $values
     *
     * @return array<int, array{party: string, name: string, row: AgingRow}>
     */
    private function named(array $aged, string $where, array $values): array
    {
        $named = [];
        foreach (
            $this->db->iterateNumeric("SELECT id, code, name FROM party WHERE $where ORDER BY code, id", $values) as [$id, $code, $name]
        ) {
            if (isset($aged[(int) $id])) {
                $named[(int) $id] = ['party' => (string) $code, 'name' => (string) $name, 'row' => $aged[(int) $id]];
            }
        }

        return $named;
    }
}
