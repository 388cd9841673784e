<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Books\DiscountSteps;
use Nelbix\App\Books\StoredItem;
use Nelbix\App\Parties\Nobody;
use Nelbix\App\Parties\Pickers;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Placement\Movement;
use Nelbix\Core\Placement\Spending;

/** What a clerk may mean by words typed into the row of a line: open items, records, parties, accounts, another bank account of ours. */
final readonly class LineSearch
{
    private const MOST = 12;

    public function __construct(
        private Connection $db,
        private BankAccounts $banks,
        private Movements $movements,
        private DiscountSteps $discounts,
        private Pickers $pickers,
        private Nobody $nobody,
    ) {
    }

    /**
     * @param array<string, mixed> $line a row of statement_line
     * @param list<Side> $sides that the person enters
     *
     * @return list<Option>
     */
    public function find(int $companyId, BankRow $bank, array $line, string $q, array $sides): array
    {
        $q = mb_substr(trim($q), 0, 120);
        if ('' === $q) {
            return [];
        }
        $waiting = (int) $line['waiting'];
        $side = $waiting > 0 ? Side::Receivables : Side::Payables;
        $mine = \in_array($side, $sides, true);
        if ('?' === $q) {
            return $mine && $waiting > 0 ? [$this->unidentified($companyId, $waiting)] : [];
        }
        $options = [
            ...$mine ? $this->items($companyId, $bank, $side, $line, $q) : [],
            ...$this->records($bank, $waiting, $q),
            ...$this->accounts($companyId, $side, $waiting, $q),
            ...$mine ? $this->parties($companyId, $side, $waiting, $q) : [],
            ...$this->transfers($companyId, $bank, $waiting, $q),
        ];

        return \array_slice($options, 0, self::MOST);
    }

    private function unidentified(int $companyId, int $waiting): Option
    {
        return new Option(
            new Choice(
                PartKind::Unapplied,
                $waiting,
                side: Side::Receivables,
                party: $this->nobody->of($companyId)->id(),
            ),
            'unidentified',
            'nobody knows yet who paid',
        );
    }

    /**
     * @param array<string, mixed> $line
     *
     * @return list<Option> all the items that the words name together, else each that begins so
     */
    private function items(int $companyId, BankRow $bank, Side $side, array $line, string $q): array
    {
        $words = preg_split('/[\s,;]+/', $q, -1, \PREG_SPLIT_NO_EMPTY) ?: [];
        $together = \count($words) > 1 ? $this->open($companyId, $side, $bank->currency, $words, true) : [];
        if (\count($together) > 1 && 1 === \count(array_unique(array_column($together, 'party_id')))) {
            return [$this->placed($side, $line, array_column($together, 'item'), $together)];
        }
        $options = [];
        foreach ($this->open($companyId, $side, $bank->currency, [$q], false) as $row) {
            $options[] = $this->placed($side, $line, [$row['item']], [$row]);
        }
        usort($options, static fn (Option $a, Option $b): int => abs($a->left) <=> abs($b->left));

        return \array_slice($options, 0, 8);
    }

    /**
     * @param array<string, mixed> $line
     * @param non-empty-list<OpenItem> $items
     * @param list<array<string, mixed>> $rows of the same items
     */
    private function placed(Side $side, array $line, array $items, array $rows): Option
    {
        $waiting = (int) $line['waiting'];
        $placed = Spending::on(abs($waiting), $items, Line::toFind($line)->day);
        $of = [];
        $used = 0;
        foreach ($items as $item) {
            $p = $placed[$item->id] ?? null;
            if (null !== $p) {
                $sign = $item->open < 0 ? -1 : 1;
                $of[] = [$item->id, $sign * $p['gross'], $p['discount'], 0];
                $used += $sign * $p['gross'] - $p['discount'];
            }
        }
        $amount = ($waiting <=> 0) * min($used, abs($waiting));

        return new Option(
            new Choice(
                PartKind::Items,
                $amount,
                side: $side,
                party: $items[0]->party,
                currency: $items[0]->currency,
                items: $of,
            ),
            \sprintf('%s, %s', $rows[0]['party_name'], implode(', ', array_column($rows, 'number'))),
            \sprintf('open %s', Typography::amount(array_sum(array_column($rows, 'open')), $items[0]->currency)),
            $waiting - $amount,
        );
    }

    /**
     * @param non-empty-list<string> $words
     *
     * @return list<array{item: OpenItem, party_id: int, party_name: string, number: string, open: int}>
     */
    private function open(int $companyId, Side $side, string $currency, array $words, bool $whole): array
    {
        $like = implode(
            ' OR ',
            array_fill(
                0,
                \count($words),
                $whole
                    ? 'i.number = ? OR d.their_number = ?'
                    : 'i.number LIKE ? OR d.their_number LIKE ? OR p.name LIKE ?',
            ),
        );
        $values = [];
        foreach ($words as $word) {
            $begins = addcslashes($word, '%_\\').'%';
            array_push($values, ...$whole ? [$word, $word] : [$begins, $begins, '%'.$begins]);
        }
        $steps = DiscountSteps::STEPS;
        $rows = $this->db->fetchAllAssociative(
            <<<SQL
            SELECT i.id, i.party_id, i.kind, i.number, i.account_id, i.currency, i.original, i.original_base, i.open, i.open_base,
                i.posting_date, i.due_date, i.document_date, i.discount_base, i.grace_days, p.name AS party_name, '' AS their_order,
                $steps AS steps
            FROM open_item i
            JOIN document d ON d.id = i.document_id
            JOIN party p ON p.id = i.party_id
            WHERE i.company_id = ? AND i.side = ? AND i.is_open = 1 AND i.currency = ? AND i.reserved_by_id IS NULL AND ($like)
            ORDER BY i.due_date, i.id
            LIMIT 30
            SQL
            ,
            [$companyId, $side->value, $currency, ...$values],
        );
        $read = $this->discounts->reader(
            $companyId,
            $side,
            array_map(static fn (array $r): int => (int) $r['id'], $rows),
        );

        return array_map(
            static fn (array $r): array => [
                'item' => StoredItem::of($r, $side, $read($r)),
                'party_id' => (int) $r['party_id'],
                'party_name' => (string) $r['party_name'],
                'number' => (string) $r['number'],
                'open' => (int) $r['open'],
            ],
            array_values(array_filter($rows, static fn (array $r): bool => $whole || (int) $r['open'] > 0)),
        );
    }

    /** @return list<Option> recorded before, under a number that begins so */
    private function records(BankRow $bank, int $waiting, string $q): array
    {
        $found = array_filter(
            1 === preg_match('/\d/', $q) ? $this->movements->open($bank) : [],
            static fn (Movement $m): bool => ($m->amount <=> 0) === ($waiting <=> 0)
                && (0 === stripos($m->number, $q)
                    || $m->check === $q
                    || [] !== array_filter($m->names, static fn (string $n): bool => 0 === stripos($n, $q))),
        );

        return array_map(
            static fn (Movement $m): Option => new Option(
                new Choice(PartKind::Joined, $waiting, entries: [[$m->entry, $m->amount]]),
                \sprintf('%s %s, %s', $m->number, $m->party, Typography::amount($m->amount, $bank->currency)),
                'recorded before',
                0,
                $waiting - $m->amount,
            ),
            \array_slice(array_values($found), 0, 6),
        );
    }

    /** @return list<Option> */
    private function accounts(int $companyId, Side $side, int $waiting, string $q): array
    {
        return array_map(
            static fn (array $a): Option => new Option(
                new Choice(
                    PartKind::Accounts,
                    $waiting,
                    parts: [
                        [
                            'account' => (string) $a['code'],
                            'amount' => $waiting,
                            'tax' => '',
                            'cost_center' => '',
                            'department' => '',
                            'project' => '',
                            'text' => '',
                        ],
                    ],
                ),
                \sprintf('account %s %s', $a['code'], $a['name']),
                '',
            ),
            \array_slice($this->pickers->find($companyId, $side, 'account', $q), 0, 4),
        );
    }

    /** @return list<Option> */
    private function parties(int $companyId, Side $side, int $waiting, string $q): array
    {
        $codes = array_column(\array_slice($this->pickers->find($companyId, $side, 'party', $q), 0, 3), 'code');
        $rows =
            [] === $codes
                ? []
                : $this->db->fetchAllAssociative(
                    'SELECT id, code, name FROM party WHERE company_id = ? AND side = ? AND code IN (?)',
                    [$companyId, $side->value, $codes],
                    [2 => ArrayParameterType::STRING],
                );

        return array_map(
            static fn (array $p): Option => new Option(
                new Choice(PartKind::Unapplied, $waiting, side: $side, party: (int) $p['id']),
                \sprintf('%s, unapplied', $p['name']),
                (string) $p['code'],
            ),
            $rows,
        );
    }

    /** @return list<Option> */
    private function transfers(int $companyId, BankRow $bank, int $waiting, string $q): array
    {
        $options = [];
        foreach ($this->banks->inUse($companyId) as $other) {
            if ($other->id !== $bank->id && (0 === stripos($other->code, $q) || false !== stripos($other->name, $q))) {
                $options[] = new Option(
                    new Choice(PartKind::Transfer, $waiting, id: $other->id),
                    \sprintf('transfer %s %s', $waiting < 0 ? 'to' : 'from', $other->name),
                    $other->code,
                );
            }
        }

        return $options;
    }
}
