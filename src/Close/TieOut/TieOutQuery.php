<?php

declare(strict_types=1);

namespace Nelbix\App\Close\TieOut;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\TieOut\AccountTie;
use Nelbix\Core\TieOut\TieOut;

/** Each control account against its open items as of a day, with what explains a difference. A few queries for the whole company. */
final readonly class TieOutQuery
{
    public function __construct(
        private Connection $db,
        private ControlItems $items,
        private AccountMovements $movements,
        private SignOffs $signOffs,
    ) {
    }

    /**
     * @param bool $sinceSignedOff what explains days that were signed off stands in one line; else every line by itself
     *
     * @return list<array{id: int, account: string, name: string, role: AccountRole, tie: AccountTie}>
     */
    public function of(int $companyId, Day $asOf, bool $sinceSignedOff = true): array
    {
        $controls = $this->controls($companyId);
        if ([] === $controls) {
            return [];
        }
        $in = implode(',', array_keys($controls));
        $ledger = $this->db->fetchAllKeyValue(
            "SELECT account_id, SUM(base) FROM journal_line WHERE account_id IN ($in) AND posting_date <= ? GROUP BY account_id",
            [$asOf->iso()],
        );
        $items = $this->items->of($companyId, array_keys($controls), $asOf);
        $differing = $this->movements->differing($companyId, $controls, null, $asOf);
        $last = $sinceSignedOff ? $this->signOffs->last($companyId, $asOf) : [];
        $result = [];
        foreach ($controls as $id => $control) {
            $sign = $control['role']->normalSign();
            $result[] = [
                'id' => $id,
                ...$control,
                'tie' => TieOut::of(
                    $sign * (int) ($ledger[$id] ?? 0),
                    $sign * (int) ($items[$id] ?? 0),
                    $differing[$id] ?? [],
                    $last[$id] ?? null,
                    $asOf,
                ),
            ];
        }

        return $result;
    }

    /** @return array<int, array{account: string, name: string, role: AccountRole}> by account id, in order of number */
    public function controls(int $companyId): array
    {
        $controls = [];
        foreach (
            $this->db->fetchAllAssociative(
                'SELECT id, number, name, role FROM account WHERE company_id = ? AND role IN (?) ORDER BY number',
                [$companyId, array_column(AccountRole::controls(), 'value')],
                [1 => ArrayParameterType::STRING],
            ) as $r
        ) {
            $controls[(int) $r['id']] = [
                'account' => (string) $r['number'],
                'name' => (string) $r['name'],
                'role' => AccountRole::from((string) $r['role']),
            ];
        }

        return $controls;
    }
}
