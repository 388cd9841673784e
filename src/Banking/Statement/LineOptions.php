<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Placement\Find;
use Nelbix\Core\Placement\FindKind;
use Nelbix\Core\Placement\Found;
use Nelbix\Core\Placement\Why;

/** What was found for lines, as choices with words: the items, records, parties, accounts and rules in them are read all at once. */
final readonly class LineOptions
{
    public function __construct(
        private Connection $db,
        private BankAccounts $banks,
        private RuleCounts $rules,
        private RuleParts $ruleParts,
        private Differences $differences,
    ) {
    }

    /**
     * @param array<int, Found> $found by line
     * @param array<int, int> $waiting by line
     *
     * @return array<int, list<Option>> by line
     */
    public function of(BankRow $bank, int $companyId, array $found, array $waiting): array
    {
        $finds = array_merge(...array_values(array_map(static fn (Found $f): array => $f->finds, $found)));
        $items = $this->items($finds);
        $entries = $this->entries(
            $bank,
            array_values(array_filter(array_map(static fn (Find $f): int => $f->entry, $finds))),
        );
        $parties = $this->parties($finds);
        $rules = $this->rules->inUse($companyId, $bank->id);
        $banks = array_column($this->banks->inUse($companyId), 'name', 'id');
        $options = [];
        foreach ($found as $line => $of) {
            foreach ($of->finds as $find) {
                $option = match ($find->kind) {
                    FindKind::Check, FindKind::Reference, FindKind::Movement => self::joined($bank, $find, $entries),
                    FindKind::Items => self::placed($bank, $find, $items, $parties),
                    FindKind::Party => new Option(
                        new Choice(
                            PartKind::Unapplied,
                            $find->amount,
                            $find->kind,
                            side: $find->side,
                            party: $find->party,
                        ),
                        ($parties[$find->party] ?? '').', unapplied',
                        $find->reason,
                    ),
                    FindKind::Transfer => new Option(
                        new Choice(PartKind::Transfer, $find->amount, $find->kind, id: $find->id),
                        'transfer '.($find->amount < 0 ? 'to ' : 'from ').($banks[$find->id] ?? ''),
                        $find->reason,
                    ),
                    FindKind::Bounce => new Option(
                        new Choice(PartKind::Bounce, $find->amount, $find->kind, id: $find->id),
                        'bounced: what it settled opens again',
                        $find->reason,
                    ),
                    FindKind::Rule => $this->ruleParts->option($companyId, $find, $rules[$find->id]['parts'] ?? []),
                };
                if (null !== $option) {
                    $options[$line][] = $option;
                }
            }
            $options[$line] = array_map(
                fn (Option $o): Option => new Option(
                    $o->choice,
                    $o->label,
                    $o->reason,
                    ($waiting[$line] ?? $o->choice->amount) - $o->choice->amount,
                    $o->off,
                    0 === $o->off ? '' : $this->differences->account($companyId, $bank, $o->off),
                ),
                $options[$line] ?? [],
            );
        }

        return $options;
    }

    /** @param array<int, array<string, mixed>> $entries */
    private static function joined(BankRow $bank, Find $find, array $entries): ?Option
    {
        $entry = $entries[$find->entry] ?? null;
        if (null === $entry || 0 === $find->amount) {
            return null;
        }
        $is = $find->amount - $find->off;

        return new Option(
            new Choice(PartKind::Joined, $find->amount, $find->kind, [[$find->entry, $is]]),
            \sprintf(
                '%s%s%s',
                $entry['number'],
                null === $entry['party'] ? '' : ' '.$entry['party'],
                0 === $find->off ? '' : ', '.Typography::amount($is, $bank->currency),
            ),
            $find->reason,
            0,
            $find->off,
        );
    }

    /**
     * @param array<int, array<string, mixed>> $items
     * @param array<int, string> $parties
     */
    private static function placed(BankRow $bank, Find $find, array $items, array $parties): ?Option
    {
        if (null === $find->idea || null === $find->side) {
            return null;
        }
        $placed = $numbers = [];
        $money = $discount = $charge = 0;
        foreach ($find->idea->placed as $item => $p) {
            $is = $items[$item] ?? null;
            if (null === $is) {
                return null;
            }
            $sign = (int) $is['open'] < 0 ? -1 : 1;
            // short of no more than what banks keep: settled whole, the rest is the bank's
            $kept = Why::Charge === $find->idea->why ? (int) $is['open'] - $p['gross'] : 0;
            $placed[] = [$item, $sign * ($p['gross'] + $kept), $p['discount'], $kept];
            $numbers[] = (string) $is['number'];
            $money += $sign * $p['gross'] - $p['discount'];
            $discount += $p['discount'];
            $charge += $kept;
        }
        $foreign = $find->currency !== $bank->currency;

        return new Option(
            new Choice(
                PartKind::Items,
                $find->amount,
                $find->kind,
                side: $find->side,
                party: $find->party,
                currency: $find->currency,
                money: $foreign ? $money : 0,
                items: $placed,
            ),
            \sprintf(
                '%s, %s%s%s%s',
                $parties[$find->party] ?? '',
                \count($numbers) > 3
                    ? \sprintf('%s and %d more', $numbers[0], \count($numbers) - 1)
                    : implode(', ', $numbers),
                0 === $discount ? '' : ' less discount '.Typography::amount($discount, $find->currency),
                0 === $charge ? '' : ' less '.Typography::amount($charge, $find->currency).' that a bank kept',
                $foreign ? ' over '.Typography::amount($money, $find->currency).' '.$find->currency : '',
            ),
            $find->reason,
        );
    }

    /**
     * @param list<Find> $finds
     *
     * @return array<int, array<string, mixed>> by item
     */
    private function items(array $finds): array
    {
        $ids = [];
        foreach ($finds as $f) {
            array_push($ids, ...array_keys($f->idea->placed ?? []));
        }

        return [] === $ids
            ? []
            : $this->db->fetchAllAssociativeIndexed(
                'SELECT id, number, open, currency FROM open_item WHERE id IN (?)',
                [array_values(array_unique($ids))],
                [ArrayParameterType::INTEGER],
            );
    }

    /**
     * @param list<int> $entries
     *
     * @return array<int, array<string, mixed>> number and party, by entry
     */
    private function entries(BankRow $bank, array $entries): array
    {
        return [] === $entries
            ? []
            : $this->db->fetchAllAssociativeIndexed(
                <<<'SQL'
                SELECT e.id, COALESCE(d.number, s.number, e.number) AS number,
                    COALESCE(p.name, IF(d.id IS NULL AND s.id IS NULL, e.text, NULL)) AS party
                FROM journal_entry e
                LEFT JOIN document d ON e.source_kind = 'document' AND d.id = e.source_id
                LEFT JOIN deposit_slip s ON e.source_kind = 'deposit' AND s.id = e.source_id
                LEFT JOIN party p ON p.id = d.party_id
                WHERE e.id IN (?)
                SQL
                ,
                [array_values(array_unique($entries))],
                [ArrayParameterType::INTEGER],
            );
    }

    /**
     * @param list<Find> $finds
     *
     * @return array<int, string> names by id
     */
    private function parties(array $finds): array
    {
        $ids = array_values(array_unique(array_filter(array_map(static fn (Find $f): int => $f->party, $finds))));

        return [] === $ids
            ? []
            : array_map(
                static fn (mixed $name): string => (string) $name,
                $this->db->fetchAllKeyValue(
                    'SELECT id, name FROM party WHERE id IN (?)',
                    [$ids],
                    [ArrayParameterType::INTEGER],
                ),
            );
    }
}
