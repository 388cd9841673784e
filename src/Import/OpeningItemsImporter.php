<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Ledger\AccountRole;

/**
 * What was open elsewhere on the day of the take-over, item by item: invoices, and credit notes where the amount is negative. They are
 * posted on that day against the opening balances and keep their own dates, so aging and due dates go on.
 */
final readonly class OpeningItemsImporter implements PlanningImporter
{
    private const KINDS = ['opening-payables' => 'vendor-invoices', 'opening-receivables' => 'customer-invoices'];

    public function __construct(private InvoiceImporter $invoices, private OpeningDay $day, private Chart $chart)
    {
    }

    public function kinds(): array
    {
        return array_keys(self::KINDS);
    }

    public function required(string $kind): array
    {
        return ['party', 'number', 'document_date', 'amount'];
    }

    public function optional(string $kind): array
    {
        return ['due_date', 'terms', 'currency', 'rate', 'description', 'look_alike_reason'];
    }

    public function key(string $kind): array
    {
        return [];
    }

    public function together(string $kind): array
    {
        return ['party'];
    }

    public function begin(Actor $actor, string $kind): PlannedFile
    {
        $day = $this->day->of($actor->companyId)->iso();
        $opening = $this->chart->role($actor->companyId, AccountRole::OpeningBalances);
        $account = $this->chart->account($actor->companyId, $opening)['number'];

        return new OpeningItemsFile(
            $this->invoices->begin($actor, self::KINDS[$kind]),
            static fn (array $row): array => self::invoice($row, $day, $account),
        );
    }

    public function take(Actor $actor, string $kind, array $rows, bool $approved): array
    {
        $file = $this->begin($actor, $kind);
        $file->plan($rows);

        return $file->write();
    }

    /**
     * @param array<string, string> $row
     *
     * @return array<string, string> the columns of a file of invoices
     */
    private static function invoice(array $row, string $day, string $account): array
    {
        $credit = str_starts_with($row['amount'], '-');

        return [
            ...$row,
            'kind' => $credit ? 'credit_note' : 'invoice',
            'amount' => $credit ? substr($row['amount'], 1) : $row['amount'],
            'posting_date' => $day,
            'account' => $account,
            'tax_code' => '',
            'cost_center' => '',
            'department' => '',
            'project' => '',
            'line_kind' => '',
        ];
    }
}
