<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Revaluation;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\OpenAsOf;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\Rates;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Charges\RevaluedItem;
use Nelbix\Core\Charges\Revaluer;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/** Looks at what was open in other currencies as of a day. Prepayments are no monetary items and stay as they are (IAS 21.16). */
final readonly class ProposeRevaluation
{
    public function __construct(private Connection $db, private Rates $rates, private Chart $chart)
    {
    }

    /** @throws Refused when the chart lacks an account that it needs */
    public function of(int $companyId, string $base, Day $asOf): ProposedRevaluation
    {
        $rates = $items = $names = $missing = [];
        foreach ($this->open($companyId, $base, $asOf) as $r) {
            $currency = (string) $r['currency'];
            $rates[$currency] ??= $this->rates->find($companyId, $currency, $base, $asOf);
            if (null === $rates[$currency]) {
                $missing[$currency] = $currency;
                continue;
            }
            $item = new RevaluedItem(
                (int) $r['id'],
                Side::from((string) $r['side']),
                (int) $r['account_id'],
                (int) $r['party_id'],
                $currency,
                (int) $r['open'],
                (int) $r['open_base'],
                $rates[$currency],
                $base,
            );
            $items[] = $item;
            $names[$item->item] = [
                'number' => (string) $r['number'],
                'document_id' => (int) $r['document_id'],
                'party' => (string) $r['party'],
                'party_name' => (string) $r['party_name'],
                'account' => $r['account'].' '.$r['account_name'],
                'due_date' => (string) $r['due_date'],
            ];
        }
        $used = [];
        foreach (array_filter($rates) as $currency => $rate) {
            $used[$currency] = [
                'rate' => (string) $rate->stripTrailingZeros(),
                'day' => (string) $this->rates->dayOf($companyId, $currency, $base, $asOf)?->iso(),
            ];
        }

        return new ProposedRevaluation(
            $asOf,
            $items,
            $names,
            $used,
            array_values($missing),
            [] === $items
                ? JournalDraft::of($base, [])
                : Revaluer::entry(
                    $base,
                    $items,
                    [
                        Side::Payables->value => $this->chart->role($companyId, AccountRole::PayablesRevaluation),
                        Side::Receivables->value => $this->chart->role($companyId, AccountRole::ReceivablesRevaluation),
                    ],
                    $this->chart->role($companyId, AccountRole::ExchangeUnrealised),
                ),
        );
    }

    /** @return \Traversable<int, array<string, mixed>> */
    private function open(int $companyId, string $base, Day $asOf): \Traversable
    {
        $day = OpenAsOf::replayed();
        [$open, $openBase, $join, $where] = [$day->open(), $day->open('_base'), $day->join(), $day->where()];
        [$one, $other] = [AccountRole::VendorPrepayments->value, AccountRole::CustomerPrepayments->value];

        return $this->db->iterateAssociative(
            <<<SQL
            SELECT i.id, i.number, i.document_id, i.side, i.account_id, i.party_id, i.currency, i.due_date, $open AS open,
                $openBase AS open_base, p.code AS party, p.name AS party_name, a.number AS account, a.name AS account_name
            FROM open_item i
            JOIN account a ON a.id = i.account_id
            JOIN party p ON p.id = i.party_id
            $join
            WHERE i.company_id = :company AND i.currency <> :base AND a.role NOT IN ('$one', '$other') AND $where
            ORDER BY i.side, p.code, i.id
            SQL
            ,
            ['company' => $companyId, 'base' => $base, 'day' => $asOf->iso()],
        );
    }
}
