<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * Keeps rows of the grid as drafts of a batch, as they are typed, however wrong; and says what was understood of each.
 *
 * @phpstan-type RowResult array{draft: ?int, version: int, total: string, due: string, problems: array<string, string>,
 *     understood: array<string, string>}
 */
final readonly class KeepRows
{
    public const MOST = 500;

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private KeepDraft $keepDraft,
        private InvoiceReader $reader,
        private InvoicePlanner $planner,
    ) {
    }

    /**
     * @param array<int, array<mixed>> $rows under the grid's own index: party, number, document_date, due_date, account, amount,
     *                                       tax_code, cost_center, text, draft, version
     * @param bool $only true says what is understood of each and keeps nothing
     *
     * @return array<int, RowResult>
     *
     * @throws Refused when the batch is posted, or a row was changed by somebody else
     */
    public function keep(Actor $actor, Side $side, int $batchId, array $rows, bool $only = false): array
    {
        if (\count($rows) > self::MOST) {
            throw Refused::because(
                '',
                \sprintf('At most %d rows are taken at once; paste the rest after them.', self::MOST),
            );
        }

        return $this->transaction->run(function () use ($actor, $side, $batchId, $rows, $only): array {
            $batch = $this->entities->find(Batch::class, $batchId);
            if (
                null === $batch
                || $batch->companyId !== $actor->companyId
                || $batch->side !== $side
                || null !== $batch->postedAt
            ) {
                throw Refused::because('', 'There is no such open batch in this company.', ProblemKind::Unknown);
            }
            $results = [];
            foreach ($rows as $k => $row) {
                $text = static fn (string $key): string => \is_scalar($row[$key] ?? null)
                    ? trim((string) $row[$key])
                    : '';
                $draftId = (int) $text('draft') ?: null;
                if ('' === implode('', array_map($text, ['party', 'number', 'account', 'amount', 'text']))) {
                    if (null !== $draftId) {
                        $this->keepDraft->discard($actor, $side, $draftId);
                    }
                    $results[$k] = [
                        'draft' => null,
                        'version' => 0,
                        'total' => '',
                        'due' => '',
                        'problems' => [],
                        'understood' => [],
                    ];
                    continue;
                }
                $results[$k] = $this->row($actor, $side, $batch, $text, $draftId, $only);
            }

            return $results;
        });
    }

    /**
     * @param \Closure(string): string $text
     *
     * @return RowResult
     */
    private function row(Actor $actor, Side $side, Batch $batch, \Closure $text, ?int $draftId, bool $only): array
    {
        $raw = self::raw($text, $batch);
        $draft = null;
        if (!$only) {
            $draft = $this->keepDraft->keep(
                $actor,
                $side,
                $raw,
                $draftId,
                null === $draftId ? null : (int) $text('version'),
            );
            $draft->batchId = $batch->id();
            $this->entities->flush();
        }
        $input = $this->reader->read($actor, $side, $raw);
        $problems = $input->problems;
        $plan = null;
        try {
            $plan = [] === $input->lines ? null : $this->planner->plan($actor, $input);
        } catch (Refused $e) {
            array_push($problems, ...$e->problems);
        }
        $by = [];
        foreach ($problems as $p) {
            $by[str_replace('lines.0.', '', $p->field)] ??= $p->message;
        }

        if (null !== $draft) {
            // with every draft still watched, each row would cost more than the one before
            $this->entities->detach($draft);
        }

        return [
            'draft' => $draft?->id() ?? $draftId,
            'version' => $draft->version ?? (int) $text('version'),
            'total' => null === $plan ? '' : Typography::amount($plan->tax->total(), $input->currency),
            'due' => null === $plan ? '' : Typography::day($plan->parts[\count($plan->parts) - 1]->due),
            'problems' => $by,
            'understood' => array_filter([
                'document_date' => $input->documentDate?->long() ?? '',
                'due_date' => $input->dueDate?->long() ?? '',
                'amount' => [] === $input->lines
                        ? ''
                        : Typography::amount(array_values($input->lines)[0]->amount, $input->currency),
            ]),
        ];
    }

    /**
     * A row of the grid as the form of an invoice with one line.
     *
     * @param \Closure(string): string $text
     *
     * @return array<string, mixed>
     */
    private static function raw(\Closure $text, Batch $batch): array
    {
        return [
            'kind' => 'invoice',
            'party' => $text('party'),
            'number' => $text('number'),
            'document_date' => $text('document_date'),
            'posting_date' => $batch->postingDate->long(),
            'due_date' => $text('due_date'),
            'description' => $text('text'),
            'lines' => [
                [
                    'account' => $text('account'),
                    'amount' => $text('amount'),
                    'tax_code' => $text('tax_code'),
                    'text' => $text('text'),
                    'cost_center' => $text('cost_center'),
                ],
            ],
        ];
    }
}
