<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Doctrine\DBAL\Connection;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Psr\Clock\ClockInterface;

/**
 * Keeps that a reminder went out, and posts its fee as a finance charge. Call inside a transaction.
 *
 * @phpstan-import-type Reminder from RemindersQuery
 */
final readonly class KeepReminder
{
    public function __construct(
        private Connection $db,
        private PostInvoice $postInvoice,
        private InvoiceReader $invoices,
        private Chart $chart,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /** @param Reminder $reminder */
    public function keep(Actor $actor, array $reminder, Day $day, string $how): void
    {
        $this->db->insert('reminder', [
            'company_id' => $actor->companyId,
            'party_id' => $reminder['party_id'],
            'rung' => $reminder['rung'],
            'sent_on' => $day->iso(),
            'fee_document_id' => 0 === $reminder['fee'] ? null : $this->fee($actor, $reminder, $day),
            'made_by_id' => $actor->userId,
            'made_at' => $this->clock->now()->format('Y-m-d H:i:s'),
        ]);
        $id = (int) $this->db->lastInsertId();
        foreach ($reminder['items'] as $item) {
            $this->db->insert('reminder_item', [
                'reminder_id' => $id,
                'item_id' => $item['id'],
                'open' => $item['open'],
            ]);
        }
        $this->history->note(
            $actor,
            'party',
            $reminder['party_id'],
            'reminded',
            \sprintf('rung %d of %d, %s', $reminder['rung'], $reminder['rungs'], $how),
        );
    }

    /** @param Reminder $reminder */
    private function fee(Actor $actor, array $reminder, Day $day): int
    {
        $account = $this->chart->account(
            $actor->companyId,
            $this->chart->role($actor->companyId, AccountRole::FinanceChargeIncome),
        );

        return $this->postInvoice->post(
            $actor,
            $this->invoices->read($actor, Side::Receivables, [
                'kind' => 'finance_charge',
                'party' => $reminder['code'],
                'document_date' => $day->iso(),
                'posting_date' => $day->iso(),
                'currency' => $actor->baseCurrency,
                'lines' => [
                    [
                        'account' => $account['number'],
                        'text' => \sprintf('Reminder %d', $reminder['rung']),
                        'amount' => Money::of($reminder['fee'], $actor->baseCurrency)->decimal(),
                        'tax_code' => '',
                    ],
                ],
            ]),
        );
    }
}
