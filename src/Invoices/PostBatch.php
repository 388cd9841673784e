<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Doctrine\ORM\Query;
use Nelbix\App\Books\Document;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Posts the drafts of a batch: whole or not at all, or on the clerk's word the good ones, and the others stay. */
final readonly class PostBatch
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private BatchDrafts $read,
        private PostInvoice $postInvoice,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param bool $goodOnly true posts what can be posted and leaves the rest in the batch
     *
     * @return array{posted: int, left: int, why: list<string>} why says of each that stays what keeps it
     *
     * @throws Refused naming every draft that cannot be posted, its field prefixed "draft.N."; or control figures that disagree
     */
    public function post(Actor $actor, Side $side, int $batchId, bool $goodOnly = false): array
    {
        if ($goodOnly) {
            return $this->postGood($actor, $side, $batchId);
        }

        return $this->transaction->run(function () use ($actor, $side, $batchId): array {
            $batch = $this->open($actor, $side, $batchId);
            $drafts = $this->drafts($actor, $batchId);
            $problems = self::control($batch, $drafts, $actor->baseCurrency);
            if ([] === $drafts) {
                $problems[] = new Problem('', 'The batch is empty; enter something first.');
            }
            $toPost = $this->toPost($actor, $side, array_keys($drafts));
            if ([] !== $toPost) {
                try {
                    $this->postInvoice->postAll($actor, $toPost);
                } catch (Refused $e) {
                    array_push($problems, ...$e->problems);
                }
            }
            if ([] !== $problems) {
                throw Refused::all($problems);
            }
            $batch->postedAt = $this->clock->now();
            $this->history->note($actor, 'batch', $batchId, 'posted', Words::count(\count($drafts), 'document'));

            return ['posted' => \count($drafts), 'left' => 0, 'why' => []];
        });
    }

    /**
     * Each draft in a transaction of its own; what is refused stays as it is.
     *
     * @return array{posted: int, left: int, why: list<string>}
     */
    private function postGood(Actor $actor, Side $side, int $batchId): array
    {
        $this->transaction->run(fn () => $this->open($actor, $side, $batchId));
        $ids = array_keys($this->drafts($actor, $batchId));
        $posted = 0;
        $why = [];
        foreach ($ids as $id) {
            $number = 'draft '.$id;
            try {
                $this->transaction->run(function () use ($actor, $side, $id, &$number): void {
                    $toPost = $this->toPost($actor, $side, [$id]);
                    $number = '' === $toPost[0]->input->number ? $number : $toPost[0]->input->number;
                    $this->postInvoice->postAll($actor, $toPost);
                });
                ++$posted;
            } catch (Refused $e) {
                $why[] = $number.': '.$e->problems[0]->message;
            }
        }
        $left = \count($ids) - $posted;
        $this->transaction->run(function () use ($actor, $side, $batchId, $posted, $left): void {
            $batch = $this->open($actor, $side, $batchId);
            $batch->postedAt = 0 === $left && $posted > 0 ? $this->clock->now() : null;
            $this->history->note(
                $actor,
                'batch',
                $batchId,
                'posted',
                \sprintf('%s, %d %s', Words::count($posted, 'document'), $left, 1 === $left ? 'stays' : 'stay'),
            );
        });

        return ['posted' => $posted, 'left' => $left, 'why' => $why];
    }

    private function open(Actor $actor, Side $side, int $batchId): Batch
    {
        $batch = $this->entities->find(Batch::class, $batchId, LockMode::PESSIMISTIC_WRITE);
        if (null === $batch || $batch->companyId !== $actor->companyId || $batch->side !== $side) {
            throw Refused::because('', 'There is no such batch in this company.', ProblemKind::Unknown);
        }
        $this->entities->refresh($batch, LockMode::PESSIMISTIC_WRITE);
        if (null !== $batch->postedAt) {
            throw Refused::because('', \sprintf('The batch %s was already posted.', $batch->name));
        }

        return $batch;
    }

    /**
     * The drafts as they stand under their locks: a row that is being kept right now is waited for, and one that comes later finds
     * the batch posted.
     *
     * @param list<int> $ids
     *
     * @return ($ids is non-empty-list<int> ? non-empty-list<InvoiceToPost> : list<InvoiceToPost>)
     *
     * @throws Refused when one was posted or removed meanwhile
     */
    private function toPost(Actor $actor, Side $side, array $ids): array
    {
        /** @var list<Document> $drafts */
        $drafts = $this->entities
            ->createQuery(
                'SELECT d FROM '.Document::class.' d WHERE d.id IN (:ids) AND d.companyId = :company ORDER BY d.id',
            )
            ->setParameter('ids', $ids, ArrayParameterType::INTEGER)
            ->setParameter('company', $actor->companyId)
            ->setLockMode(LockMode::PESSIMISTIC_WRITE)
            ->setHint(Query::HINT_REFRESH, true)
            ->getResult();
        if (\count($drafts) !== \count($ids)) {
            throw Refused::because('', 'A document of the batch was removed meanwhile; load the page anew.');
        }

        return $this->read->toPost($actor, $side, $drafts);
    }

    /** @return array<int, int> total by id */
    private function drafts(Actor $actor, int $batchId): array
    {
        return array_map(
            'intval',
            $this->entities
                ->getConnection()
                ->fetchAllKeyValue(
                    "SELECT id, total FROM document WHERE company_id = ? AND batch_id = ? AND state = 'draft' ORDER BY id",
                    [$actor->companyId, $batchId],
                ),
        );
    }

    /**
     * @param array<int, int> $drafts total by id
     *
     * @return list<Problem>
     */
    private static function control(Batch $batch, array $drafts, string $currency): array
    {
        $problems = [];
        if (null !== $batch->controlCount && \count($drafts) !== $batch->controlCount) {
            $problems[] = new Problem(
                'control_count',
                \sprintf(
                    'The tape counts %d documents, the batch holds %d; enter the missing ones or correct the count.',
                    $batch->controlCount,
                    \count($drafts),
                ),
            );
        }
        $total = array_sum($drafts);
        if (null !== $batch->controlTotal && $total !== $batch->controlTotal) {
            $problems[] = new Problem(
                'control_total',
                \sprintf(
                    'The tape adds up to %s, the batch to %s; the difference is %s.',
                    Money::of($batch->controlTotal, $currency)->decimal(),
                    Money::of($total, $currency)->decimal(),
                    Money::of($batch->controlTotal - $total, $currency)->decimal(),
                ),
            );
        }

        return $problems;
    }
}
