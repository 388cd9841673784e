<?php

declare(strict_types=1);

namespace Nelbix\App\Close\TieOut;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\SourceKind;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\TieOut\Movement;

/** What moved control accounts, by its entries on one hand and by its items on the other. */
final readonly class AccountMovements
{
    public function __construct(private Connection $db)
    {
    }

    /**
     * Sources whose entries and items moved an account by different amounts on a day. Two steps, as nearly all days agree: days are
     * compared by their sums and by their sums weighted by source, which differ too where two sources are wrong by the same amount; sources
     * are listed for the days found alone.
     *
     * @param array<int, array{account: string, name: string, role: AccountRole}> $controls by account id
     * @param Day|null $from only those of days from this one on
     *
     * @return array<int, list<Movement>> by account
     */
    public function differing(int $companyId, array $controls, ?Day $from, Day $asOf): array
    {
        $accounts = array_keys($controls);
        $with = ['company' => $companyId, 'day' => $asOf->iso(), 'from' => $from?->iso()];
        $days = $this->db->fetchFirstColumn(
            'SELECT DISTINCT day FROM (SELECT account_id, day FROM ('.
                MovementParts::byDay($accounts).
                <<<'SQL'
                ) m GROUP BY account_id, day
                HAVING SUM(ledger) <> SUM(items) OR SUM(ledger_mix) <> SUM(items_mix)) d
                SQL
            ,
            $with,
        );
        $rows =
            [] === $days
                ? []
                : $this->db->fetchAllAssociative(
                    'SELECT account_id, source, day, SUM(ledger) AS ledger, SUM(items) AS items, MAX(entry) AS entry,'.
                        ' SUM(entry IS NULL) AS moved FROM ('.
                        MovementParts::bySource($accounts).
                        ') m GROUP BY account_id, source, day HAVING SUM(ledger) <> SUM(items)',
                    [...$with, 'days' => $days],
                    ['days' => ArrayParameterType::STRING],
                );
        $entries = [];
        $ids = array_filter(array_map(static fn (array $r): int => (int) $r['entry'], $rows));
        if ([] !== $ids) {
            $entries = $this->db->fetchAllAssociativeIndexed(
                <<<'SQL'
                SELECT e.id, e.number, e.bypass, e.text, u.name
                FROM journal_entry e
                JOIN app_user u ON u.id = e.created_by_id
                WHERE e.id IN (
                SQL
                .
                    implode(',', $ids).
                    ')',
            );
        }
        $movements = [];
        foreach ($rows as $r) {
            $account = (int) $r['account_id'];
            $sign = $controls[$account]['role']->normalSign();
            $entry = $entries[(int) $r['entry']] ?? null;
            $movements[$account][] = new Movement(
                (string) ($entry['number'] ?? $this->nameOf((int) $r['source'])),
                (string) $r['day'],
                $sign * (int) $r['ledger'],
                $sign * (int) $r['items'],
                (bool) ($entry['bypass'] ?? false),
                (string) ($entry['text'] ?? ''),
                (string) ($entry['name'] ?? ''),
                null !== $entry,
                (int) $r['moved'] > 0,
            );
        }

        return $movements;
    }

    private function nameOf(int $source): string
    {
        [$kind, $id] = MovementParts::source($source);

        return match ($kind) {
            SourceKind::Document, SourceKind::Delivery, SourceKind::GoodsSlip => (string) $this->db->fetchOne(
                "SELECT number FROM $kind->value WHERE id = ?",
                [$id],
            ),
            SourceKind::Deposit => (string) $this->db->fetchOne('SELECT number FROM deposit_slip WHERE id = ?', [$id]),
            null => 'entry '.$id,
            default => $kind->value.' '.$id,
        };
    }
}
