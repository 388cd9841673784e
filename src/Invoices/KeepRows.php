<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Lookup;
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
 *     missing: list<string>, asks: list<string>, understood: array<string, string>}
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
        private CheckInvoice $check,
        private TakenNumbers $numbers,
        private Lookup $lookup,
    ) {
    }

    /**
     * @param array<int, array<mixed>> $rows under the grid's own index: the columns of GridColumn, look_alike_reason, draft, version
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
            $results = $toCheck = [];
            foreach ($rows as $k => $row) {
                $text = static fn (string $key): string => \is_scalar($row[$key] ?? null)
                    ? trim((string) $row[$key])
                    : '';
                $draftId = (int) $text('draft') ?: null;
                if (self::isEmpty($text)) {
                    if (null !== $draftId && !$only) {
                        $this->keepDraft->discard($actor, $side, $draftId);
                    }
                    $results[$k] = self::said(null, 0);
                    continue;
                }
                [$results[$k], $toCheck[$k]] = $this->row($actor, $side, $batch, $text, $draftId, $only);
            }

            return $this->checked($actor, $results, $toCheck);
        });
    }

    /** @param \Closure(string): string $text */
    private static function isEmpty(\Closure $text): bool
    {
        return '' ===
            implode('', array_map($text, ['party', 'number', 'account', 'amount', 'text', 'account_2', 'amount_2']));
    }

    /**
     * @param \Closure(string): string $text
     *
     * @return array{RowResult, InvoiceToPost}
     */
    private function row(Actor $actor, Side $side, Batch $batch, \Closure $text, ?int $draftId, bool $only): array
    {
        $raw = GridRow::form($text, $batch);
        $version = (int) $text('version');
        if (!$only) {
            $draft = $this->keepDraft->keep($actor, $side, $raw, $draftId, null === $draftId ? null : $version);
            $draft->batchId = $batch->id();
            $this->entities->flush();
            [$draftId, $version] = [$draft->id(), $draft->version];
            // with every draft still watched, each row would cost more than the one before
            $this->entities->detach($draft);
        }
        $input = $this->reader->read($actor, $side, $raw);
        $amount = static fn (int $k): string => isset($input->lines[$k])
            ? Typography::amount($input->lines[$k]->amount, $input->currency)
            : '';
        $code = null === $input->partyId ? '' : $this->lookup->code($input->partyId);

        return [
            self::said($draftId, $version, [
                'party' => $code,
                'document_date' => $input->documentDate?->long() ?? '',
                'due_date' => $input->dueDate?->long() ?? '',
                'amount' => $amount(0),
                'amount_2' => $amount(1),
                'kind' => 'invoice' === $input->kind->value ? '' : str_replace('_', ' ', $input->kind->value),
            ]),
            new InvoiceToPost($input, $draftId),
        ];
    }

    /**
     * Everything that would refuse a row is said while it is typed, what looks like one entered before too.
     *
     * @param array<int, RowResult> $results
     * @param array<int, InvoiceToPost> $toCheck
     *
     * @return array<int, RowResult>
     */
    private function checked(Actor $actor, array $results, array $toCheck): array
    {
        $along = new PostedAlong(\count($toCheck) > 1 ? $this->numbers->of($actor, array_values($toCheck)) : null);
        foreach ($results as $k => $result) {
            $one = $toCheck[$k] ?? null;
            if (null === $one) {
                continue;
            }
            try {
                $this->check->plan($actor, $one, $along);
            } catch (Refused $e) {
                foreach ($e->problems as $p) {
                    $column = GridColumn::ofField($p->field);
                    $result['problems'][$column] ??= $p->message;
                    match (true) {
                        ProblemKind::Missing === $p->kind => ($result['missing'][] = $column),
                        'look_alike_reason' === $column => ($result['asks'][] = $column),
                        ProblemKind::Asks === $p->kind && str_ends_with($column, '_date') => ($result['asks'][] =
                            'day_meant'),
                        default => null,
                    };
                }
            }
            try {
                $plan = [] === $one->input->lines ? null : $this->planner->plan($actor, $one->input);
            } catch (Refused) {
                $plan = null;
            }
            if (null !== $plan) {
                $result['total'] = Typography::amount($plan->tax->total(), $one->input->currency);
                $result['due'] = Typography::day($plan->parts[\count($plan->parts) - 1]->due);
            }
            $results[$k] = $result;
        }

        return $results;
    }

    /**
     * @param array<string, string> $understood
     *
     * @return RowResult
     */
    private static function said(?int $draftId, int $version, array $understood = []): array
    {
        return [
            'draft' => $draftId,
            'version' => $version,
            'total' => '',
            'due' => '',
            'problems' => [],
            'missing' => [],
            'asks' => [],
            'understood' => array_filter($understood, static fn (string $v): bool => '' !== $v),
        ];
    }
}
