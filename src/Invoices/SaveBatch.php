<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Opens a batch or changes its name, posting date and control figures. */
final readonly class SaveBatch
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private BooksDay $booksDay,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param array<mixed> $raw name, posting_date, control_count, control_total
     *
     * @throws Refused with every problem
     */
    public function save(Actor $actor, Side $side, array $raw, ?int $id = null): int
    {
        return $this->transaction->run(function () use ($actor, $side, $raw, $id): int {
            $problems = new ProblemList();
            $text = (new Fields($raw))->text(...);
            $batch = null === $id ? null : $this->entities->find(Batch::class, $id, LockMode::PESSIMISTIC_WRITE);
            if (
                null !== $id
                && (null === $batch
                    || $batch->companyId !== $actor->companyId
                    || $batch->side !== $side
                    || null !== $batch->postedAt)
            ) {
                throw Refused::because('', 'There is no such open batch in this company.', ProblemKind::Unknown);
            }
            $problems->attempt(static fn () => RecordCheck::name($text('name'), 80));
            $day =
                '' === $text('posting_date')
                    ? $this->booksDay->of($actor->companyId)
                    : $problems->attempt(
                        fn (): Day => $this->booksDay
                            ->input($actor->companyId)
                            ->read($text('posting_date'), 'posting_date'),
                    );
            if ('' !== $text('control_count') && 1 !== preg_match('/\A\d{1,5}\z/', $text('control_count'))) {
                $problems->add('control_count', 'The count is a whole number of documents.');
            }
            $total =
                '' === $text('control_total')
                    ? null
                    : $problems->attempt(
                        static fn (): int => AmountInput::read(
                            $text('control_total'),
                            Currency::of($actor->baseCurrency),
                            'control_total',
                        )->minor,
                    );
            $problems->refuse();
            $day ??= $this->booksDay->of($actor->companyId);
            $count = '' === $text('control_count') ? null : (int) $text('control_count');
            $values = static fn (Batch $b): array => [
                'name' => $b->name,
                'posting_date' => $b->postingDate->long(),
                'control_count' => (string) $b->controlCount,
                'control_total' => null === $b->controlTotal ? '' : Money::of($b->controlTotal, $actor->baseCurrency)->decimal(),
            ];
            $before = null === $batch ? [] : $values($batch);
            $batch ??= new Batch(
                $actor->companyId,
                $side,
                $text('name'),
                $day,
                $count,
                $total,
                $actor->userId,
                $this->clock->now(),
            );
            [$batch->name, $batch->postingDate, $batch->controlCount, $batch->controlTotal] = [
                $text('name'),
                $day,
                $count,
                $total,
            ];
            $this->entities->persist($batch);
            $this->entities->flush();
            $this->history->change($actor, 'batch', $batch->id(), $before, $values($batch));

            return $batch->id();
        });
    }
}
