<?php

declare(strict_types=1);

namespace Nelbix\App\Close\TieOut;

use Nelbix\App\Ledger\SourceKind;

/**
 * What moves a control account, part by part: the journal's lines on one hand; documents, settlements, goods and deposits on the other.
 * Each part is a statement's pieces; a source is one number, so that a million of them are compared without a text.
 */
final readonly class MovementParts
{
    /** A source is its kind's place times this, and its id. */
    private const KIND = 1_000_000_000_000;
    /** A prime: what weighs a source's amount in the mixed sum of a day. */
    private const PRIME = 999_983;

    /** @param string $amount debit positive, in base minor units */
    private function __construct(
        private string $from,
        private string $account,
        private string $source,
        private string $day,
        private string $amount,
        private string $where = '1 = 1',
        private ?string $entry = null,
    ) {
    }

    /**
     * @param list<int> $accounts
     *
     * @return string a statement with :day, :from and :company: sums by account and day, and the same weighted by source
     */
    public static function byDay(array $accounts): string
    {
        return self::union($accounts, static function (self $p, string $where): string {
            $mix = "SUM(($p->amount) * MOD($p->source, ".self::PRIME.'))';
            [$sums, $mixes] =
                null === $p->entry
                    ? ["0 AS ledger, SUM($p->amount) AS items", "0 AS ledger_mix, $mix AS items_mix"]
                    : ["SUM($p->amount) AS ledger, 0 AS items", "$mix AS ledger_mix, 0 AS items_mix"];

            return "SELECT $p->account AS account_id, $p->day AS day, $sums, $mixes $p->from WHERE $where GROUP BY 1, 2";
        });
    }

    /**
     * @param list<int> $accounts
     *
     * @return string a statement with :day, :from, :company and :days: one row for each thing that moved an account on one of the days
     */
    public static function bySource(array $accounts): string
    {
        return self::union($accounts, static function (self $p, string $where): string {
            $moved =
                null === $p->entry
                    ? "0 AS ledger, $p->amount AS items, NULL AS entry"
                    : "$p->amount AS ledger, 0 AS items, $p->entry AS entry";

            return "SELECT $p->account AS account_id, $p->source AS source, $p->day AS day, $moved $p->from".
                " WHERE $where AND $p->day IN (:days)";
        });
    }

    /** @return array{?SourceKind, int} kind, null for an entry by hand, and id */
    public static function source(int $source): array
    {
        $kind = intdiv($source, self::KIND);

        return [SourceKind::cases()[$kind - 1] ?? null, $source % self::KIND];
    }

    /**
     * @param list<int> $accounts
     * @param \Closure(self, string): string $select
     */
    private static function union(array $accounts, \Closure $select): string
    {
        $in = implode(',', $accounts);

        return implode(
            ' UNION ALL ',
            array_map(
                static fn (self $p): string => $select(
                    $p,
                    "$p->where AND $p->account IN ($in) AND $p->day <= :day AND (:from IS NULL OR $p->day >= :from)",
                ),
                self::all(),
            ),
        );
    }

    /** @return list<self> */
    private static function all(): array
    {
        $kinds = implode(', ', array_map(static fn (SourceKind $k): string => "'$k->value'", SourceKind::cases()));
        $of = "IF(e.source_id IS NULL, e.id, FIELD(e.source_kind, $kinds) * ".self::KIND.' + e.source_id)';
        $document = self::id(SourceKind::Document);
        $settlement = self::id(SourceKind::Settlement, 's.id');
        $settled = <<<'SQL'
        FROM settlement s
        JOIN settlement_line l ON l.settlement_id = s.id
        JOIN open_item i ON i.id = l.item_id
        SQL;
        $slip = self::id(SourceKind::GoodsSlip, 'm.slip_id');
        $moved = 'FROM goods_move m LEFT JOIN document d ON d.id = m.document_id';
        $deposit = 'FROM deposit_slip s JOIN deposit_line l ON l.slip_id = s.id';
        $deposited = self::id(SourceKind::Deposit, 's.id');
        $undone = 'FROM goods_awaited w JOIN document d ON d.id = w.document_id';
        $side = "IF(i.side = 'receivables', 1, -1)";

        return [
            new self(
                'FROM journal_line l JOIN journal_entry e ON e.id = l.entry_id',
                'l.account_id',
                $of,
                'l.posting_date',
                'l.base',
                entry: 'e.id',
            ),
            new self(
                'FROM open_item i',
                'i.account_id',
                $document.'i.document_id',
                'i.posting_date',
                "$side * i.original_base",
            ),
            new self(
                $settled,
                'i.account_id',
                $settlement,
                's.settled_on',
                "-$side * l.applied_base",
                's.company_id = :company',
            ),
            new self(
                $settled,
                'i.account_id',
                $settlement,
                's.undone_on',
                "$side * l.applied_base",
                's.company_id = :company',
            ),
            ...array_map(
                static fn (string $day, int $sign): self => new self(
                    'FROM delivery v',
                    'v.account_id',
                    self::id(SourceKind::Delivery, 'v.id'),
                    "v.$day",
                    "$sign * v.amount_base",
                ),
                ['delivered_on', 'reversed_on'],
                [-1, 1],
            ),
            new self(
                $moved,
                'm.account_id',
                "IF(m.slip_id IS NULL, {$document}m.document_id, $slip)",
                'm.moved_on',
                'm.amount_base',
            ),
            new self(
                $moved,
                'm.account_id',
                "IF(m.slip_id IS NULL, {$document}d.reversed_by_id, $slip)",
                'm.undone_on',
                '-m.amount_base',
            ),
            new self($undone, 'w.account_id', $document.'w.document_id', 'w.invoiced_on', 'w.amount_base'),
            new self($undone, 'w.account_id', $document.'d.reversed_by_id', 'w.undone_on', '-w.amount_base'),
            ...array_map(
                static fn (string $day, int $sign): self => new self(
                    'FROM goods_arrival m',
                    'm.account_id',
                    $slip,
                    "m.$day",
                    "$sign * m.amount_base",
                ),
                ['moved_on', 'undone_on'],
                [-1, 1],
            ),
            new self('FROM document d', 'd.on_hand_account_id', $document.'d.id', 'd.posting_date', 'd.bank_base'),
            new self($deposit, 's.account_id', $deposited, 's.deposited_on', '-l.amount_base'),
            new self($deposit, 's.account_id', $deposited, 'COALESCE(l.returned_on, s.reversed_on)', 'l.amount_base'),
        ];
    }

    private static function id(SourceKind $kind, string $id = ''): string
    {
        return (array_search($kind, SourceKind::cases(), true) + 1) * self::KIND.' + '.$id;
    }
}
