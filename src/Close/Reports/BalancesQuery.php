<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Reports;

use Doctrine\DBAL\Connection;
use Nelbix\App\Close\TieOut\ControlItems;
use Nelbix\App\Close\TieOut\TieOutQuery;
use Nelbix\Core\Calendar\Day;

/**
 * What each party has open on each control account as of a day, in the sign of its normal balance. What the ledger has beside the items
 * stands in a line of its own, so that every account adds up to the ledger.
 */
final readonly class BalancesQuery
{
    public function __construct(private Connection $db, private TieOutQuery $tieOut)
    {
    }

    /**
     * @return list<array{account: string, name: string, ledger: int, rows: list<array{party_id: ?int, party: string, name: string,
     *     side: string, balance: int, documents: int}>}> by account; of accounts that hold something
     */
    public function of(int $companyId, Day $asOf): array
    {
        $controls = $this->tieOut->controls($companyId);
        if ([] === $controls) {
            return [];
        }
        $in = implode(',', array_keys($controls));
        $ledger = $this->db->fetchAllKeyValue(
            "SELECT account_id, SUM(base) FROM journal_line WHERE account_id IN ($in) AND posting_date <= ? GROUP BY account_id",
            [$asOf->iso()],
        );
        $items = ControlItems::rows(...array_keys($controls));
        $parties = [];
        foreach (
            $this->db->iterateAssociative(
                <<<SQL
                SELECT r.account_id, r.party_id, r.party, r.party_name, p.side, SUM(r.base) AS base, COUNT(*) AS documents
                FROM ($items) r
                JOIN party p ON p.id = r.party_id
                GROUP BY r.account_id, r.party_id, r.party, r.party_name, p.side
                ORDER BY r.party
                SQL
                ,
                ['company' => $companyId, 'day' => $asOf->iso()],
            ) as $r
        ) {
            $sign = $controls[(int) $r['account_id']]['role']->normalSign();
            $parties[(int) $r['account_id']][] = [
                'party_id' => (int) $r['party_id'],
                'party' => (string) $r['party'],
                'name' => (string) $r['party_name'],
                'side' => (string) $r['side'],
                'balance' => $sign * (int) $r['base'],
                'documents' => (int) $r['documents'],
            ];
        }
        $accounts = [];
        foreach ($controls as $id => $control) {
            $holds = $control['role']->normalSign() * (int) ($ledger[$id] ?? 0);
            $rows = $parties[$id] ?? [];
            $rest = $holds - array_sum(array_column($rows, 'balance'));
            if (0 !== $rest) {
                $rows[] = [
                    'party_id' => null,
                    'party' => '',
                    'name' => 'in the ledger without an item',
                    'side' => '',
                    'balance' => $rest,
                    'documents' => 0,
                ];
            }
            if ([] !== $rows) {
                $accounts[] = [
                    'account' => $control['account'],
                    'name' => $control['name'],
                    'ledger' => $holds,
                    'rows' => $rows,
                ];
            }
        }

        return $accounts;
    }
}
