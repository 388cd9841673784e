<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\Connection;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Books\DiscountSteps;
use Nelbix\App\Books\StoredItem;
use Nelbix\App\Platform\Settings;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Placement\BankLine;
use Nelbix\Core\Placement\Finder;
use Nelbix\Core\Placement\Found;
use Nelbix\Core\Placement\OpenItemFinder;

/** Loads what lines of statements may be placed on, in a handful of queries, and lets the core look for it. */
final readonly class FindPlaces
{
    /** So far back a receipt may have come that the bank takes back. */
    private const BOUNCES_DAYS = 60;

    public function __construct(
        private Connection $db,
        private BankAccounts $banks,
        private Movements $movements,
        private DiscountSteps $discounts,
        private RuleCounts $rules,
        private Settings $settings,
    ) {
    }

    /** @return array<int, Found> by line, of all lines of an account that wait */
    public function of(BankRow $bank, int $companyId): array
    {
        $lines = array_map(
            Line::toFind(...),
            $this->db->fetchAllAssociative(
                <<<'SQL'
                SELECT id, day, waiting, text, reference, party, account, check_number, reversal
                FROM statement_line
                WHERE bank_account_id = ? AND waiting <> 0
                ORDER BY day, id
                SQL
                ,
                [$bank->id],
            ),
        );

        return [] === $lines ? [] : $this->finder($bank, $companyId, $lines)->of($lines);
    }

    /** @param non-empty-list<BankLine> $lines */
    private function finder(BankRow $bank, int $companyId, array $lines): Finder
    {
        $own = [];
        foreach ($this->banks->inUse($companyId) as $other) {
            foreach ($other->id === $bank->id ? [] : array_filter([$other->iban, $other->accountNumber]) as $account) {
                $own[BankLine::plain($account)] = $other->id;
            }
        }

        return new Finder(
            $this->movements->open($bank),
            $this->items($bank, $companyId),
            array_column($this->rules->inUse($companyId, $bank->id), 'rule'),
            $own,
            $this->movements->receipts($bank, $lines[0]->day->plusDays(-self::BOUNCES_DAYS)),
        );
    }

    private function items(BankRow $bank, int $companyId): OpenItemFinder
    {
        $items = $theirs = [];
        foreach (Side::cases() as $side) {
            foreach ($this->open($companyId, $side) as [$item, $their]) {
                $items[] = $item;
                if ('' !== $their) {
                    $theirs[$item->id] = [$their];
                }
            }
        }

        $most = $this->settings->of($companyId)->amount('bank_charge_most', $bank->currency);

        return new OpenItemFinder($items, $bank->currency, $theirs, $this->parties($companyId), $most);
    }

    /** @return \Generator<array{OpenItem, string}> items that may be settled, with what the other side calls the document */
    private function open(int $companyId, Side $side): \Generator
    {
        $read = $this->discounts->reader($companyId, $side);
        $steps = DiscountSteps::STEPS;
        foreach (
            $this->db->iterateAssociative(
                <<<SQL
                SELECT i.id, i.party_id, i.kind, i.number, i.account_id, i.currency, i.original, i.original_base, i.open, i.open_base,
                    i.posting_date, i.due_date, i.document_date, i.discount_base, i.grace_days, d.their_number,
                    IF(d.kind IN ('receipt', 'payment'), '', d.reference) AS their_order, $steps AS steps
                FROM open_item i
                JOIN document d ON d.id = i.document_id
                WHERE i.company_id = ? AND i.side = ? AND i.is_open = 1 AND i.reserved_by_id IS NULL
                ORDER BY i.id
                SQL
                ,
                [$companyId, $side->value],
            ) as $r
        ) {
            yield [StoredItem::of($r, $side, $read($r)), (string) $r['their_number']];
        }
    }

    /** @return list<array{side: Side, party: int, name: string, accounts: list<string>}> */
    private function parties(int $companyId): array
    {
        $rows = $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT p.id, p.side, p.name, CONCAT_WS(',', NULLIF(p.iban, ''), NULLIF(p.account_number, ''),
                GROUP_CONCAT(CONCAT_WS(',', NULLIF(b.iban, ''), NULLIF(b.account_number, '')))) AS accounts
            FROM party p
            LEFT JOIN party_bank b ON b.party_id = p.id AND b.confirmed = 1
            WHERE p.company_id = ? AND p.nobody = 0 AND p.retired = 0
            GROUP BY p.id, p.side, p.name, p.iban, p.account_number
            SQL
            ,
            [$companyId],
        );

        return array_map(
            static fn (array $r): array => [
                'side' => Side::from((string) $r['side']),
                'party' => (int) $r['id'],
                'name' => (string) $r['name'],
                'accounts' => array_values(array_filter(explode(',', (string) $r['accounts']))),
            ],
            $rows,
        );
    }
}
