<?php

declare(strict_types=1);

namespace Nelbix\App\Payables;

use Brick\Math\BigDecimal;
use Doctrine\DBAL\Connection;
use Nelbix\App\Books\CorrectedTax;
use Nelbix\App\Books\StoredItem;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Money\PostMoney;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/**
 * What a whole run does to the books, account by account with the payments behind each: as it would be posted, by the drafts that
 * posting uses; and once it is posted, as it was.
 *
 * @phpstan-type AccountOfRun array{number: string, name: string, debit: int, credit: int, by: array<string, int>}
 */
final readonly class RunEntry
{
    public function __construct(
        private Connection $db,
        private PostMoney $postMoney,
        private CorrectedTax $taxes,
        private Rates $rates,
        private Chart $chart,
    ) {
    }

    /**
     * @return array{accounts: list<AccountOfRun>, refused: ?string} amounts in base currency, minor units, by is debit less credit of
     *                                                               each payee; refused says why it cannot be posted as it stands
     */
    public function of(Actor $actor, Proposal $proposal): array
    {
        $posted = $this->posted($proposal->id());
        $refused = null;
        if (ProposalState::Posted !== $proposal->state && ProposalState::Dropped !== $proposal->state) {
            try {
                array_push($posted, ...$this->drafted($actor, $proposal));
            } catch (Refused $e) {
                $refused = $e->getMessage();
            }
        }

        return ['accounts' => $this->byAccount($actor, $posted), 'refused' => $refused];
    }

    /** @return list<array{int, string, int}> account, payee and base amount of what the run has posted */
    private function posted(int $proposalId): array
    {
        return array_map(
            static fn (array $r): array => [(int) $r[0], (string) $r[1], (int) $r[2]],
            $this->db->fetchAllNumeric(
                <<<'SQL'
                SELECT l.account_id, p.name, l.base
                FROM proposal_payment y
                JOIN document d ON d.id = y.document_id
                JOIN party p ON p.id = d.party_id
                JOIN journal_entry e ON e.source_kind = 'document' AND e.source_id = d.id
                JOIN journal_line l ON l.entry_id = e.id
                WHERE y.proposal_id = :run
                UNION ALL
                SELECT l.account_id, p.name, l.base
                FROM proposal_payment y
                JOIN document d ON d.id = y.document_id
                JOIN party p ON p.id = d.party_id
                JOIN settlement s ON s.document_id = d.id
                JOIN journal_entry e ON e.source_kind = 'settlement' AND e.source_id = s.id AND e.reverses_id IS NULL
                JOIN journal_line l ON l.entry_id = e.id
                WHERE y.proposal_id = :run
                SQL
                ,
                ['run' => $proposalId],
            ),
        );
    }

    /**
     * @return list<array{int, string, int}>
     *
     * @throws Refused
     */
    private function drafted(Actor $actor, Proposal $proposal): array
    {
        $rows = $this->db->iterateAssociative(
            <<<'SQL'
            SELECT l.payment, i.id, i.open, i.number, i.currency, i.kind, i.account_id, l.open AS proposed, l.applied, l.discount,
                l.withholding, l.pay, y.pay_by, y.party_id, p.name AS payee, i.party_id AS owner_id, i.original, i.original_base,
                i.open_base, i.posting_date, i.due_date, i.document_date
            FROM proposal_line l
            JOIN proposal_payment y ON y.proposal_id = l.proposal_id AND y.payment = l.payment
            JOIN party p ON p.id = y.party_id
            JOIN open_item i ON i.id = l.item_id
            WHERE l.proposal_id = ? AND l.is_in = 1 AND l.dropped = 0 AND y.document_id IS NULL
            ORDER BY l.payment, i.id
            SQL
            ,
            [$proposal->id],
        );
        $taxes = $this->taxes->of($this->discounted($proposal->id()));
        $drafted = $rates = $lines = [];
        foreach ($rows as $r) {
            if ([] !== $lines && $lines[0]['payment'] !== $r['payment']) {
                array_push($drafted, ...$this->payment($actor, $proposal, $lines, $taxes, $rates));
                $lines = [];
            }
            $lines[] = $r;
        }
        if ([] !== $lines) {
            array_push($drafted, ...$this->payment($actor, $proposal, $lines, $taxes, $rates));
        }

        return $drafted;
    }

    /** @return list<int> the items that are paid less a discount */
    private function discounted(int $proposalId): array
    {
        return array_map(
            'intval',
            $this->db->fetchFirstColumn(
                'SELECT item_id FROM proposal_line WHERE proposal_id = ? AND is_in = 1 AND dropped = 0 AND discount <> 0',
                [$proposalId],
            ),
        );
    }

    /**
     * @param non-empty-list<array<string, mixed>> $lines of one payment
     * @param array<int, non-empty-list<array<string, mixed>>> $taxes by item
     * @param array<string, BigDecimal> $rates by currency, as they are looked up
     *
     * @return list<array{int, string, int}>
     */
    private function payment(Actor $actor, Proposal $proposal, array $lines, array $taxes, array &$rates): array
    {
        $currency = (string) $lines[0]['currency'];
        $rates[$currency] ??= $this->rates->on($actor->companyId, $currency, $actor->baseCurrency, $proposal->payDate);
        $input = RunMoney::of($proposal, $lines[0], array_map(self::row(...), $lines), '', $rates[$currency]);
        if ($input->amount <= 0) {
            return []; // credits alone leave nothing to pay; posting says so
        }
        $items = [];
        foreach ($lines as $r) {
            $items[(int) $r['id']] = StoredItem::of([...$r, 'party_id' => $r['owner_id']], Side::Payables);
        }
        $drafted = [];
        foreach ($this->postMoney->preview($actor, $input, $items, $taxes) as $draft) {
            foreach ($draft instanceof JournalDraft ? $draft->lines : [] as $line) {
                $drafted[] = [$line->account, (string) $lines[0]['payee'], $line->base];
            }
        }

        return $drafted;
    }

    /**
     * @param list<array{int, string, int}> $lines
     *
     * @return list<AccountOfRun> by number
     */
    private function byAccount(Actor $actor, array $lines): array
    {
        $by = [];
        foreach ($lines as [$account, $payee, $base]) {
            $by[$account][$payee] = ($by[$account][$payee] ?? 0) + $base;
        }
        $accounts = [];
        $names = $this->chart->accounts($actor->companyId);
        foreach ($by as $account => $payees) {
            $payees = array_filter($payees);
            $accounts[] = [
                'number' => (string) $names[$account]['number'],
                'name' => (string) $names[$account]['name'],
                'debit' => array_sum(array_filter($payees, static fn (int $b): bool => $b > 0)),
                'credit' => -array_sum(array_filter($payees, static fn (int $b): bool => $b < 0)),
                'by' => $payees,
            ];
        }
        usort($accounts, static fn (array $a, array $b): int => $a['number'] <=> $b['number']);

        return array_values(array_filter($accounts, static fn (array $a): bool => [] !== $a['by']));
    }

    /**
     * @param array<string, mixed> $r
     *
     * @return array{payment: int, id: int, open: int, number: string, currency: string, kind: string, account_id: int,
     *     proposed: int, applied: int, discount: int, withholding: int, pay: int}
     */
    private static function row(array $r): array
    {
        return [
            'payment' => (int) $r['payment'],
            'id' => (int) $r['id'],
            'open' => (int) $r['open'],
            'number' => (string) $r['number'],
            'currency' => (string) $r['currency'],
            'kind' => (string) $r['kind'],
            'account_id' => (int) $r['account_id'],
            'proposed' => (int) $r['proposed'],
            'applied' => (int) $r['applied'],
            'discount' => (int) $r['discount'],
            'withholding' => (int) $r['withholding'],
            'pay' => (int) $r['pay'],
        ];
    }
}
