<?php

declare(strict_types=1);

namespace Nelbix\App\Invoices;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\DocumentState;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Calendar\Recurrence;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Makes a posted document come again; and stops that, or lets it go on. */
final readonly class KeepRecurring
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private DocumentForm $documentForm,
        private BooksDay $booksDay,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param array<mixed> $raw name, every, weeks, first_on, until_on, most, ask_amount
     *
     * @throws Refused with every problem
     */
    public function begin(Actor $actor, Side $side, int $documentId, array $raw): int
    {
        return $this->transaction->run(function () use ($actor, $side, $documentId, $raw): int {
            $document = $this->entities->find(Document::class, $documentId);
            if (
                null === $document
                || $document->companyId !== $actor->companyId
                || $document->side !== $side
                || DocumentState::Draft === $document->state
                || !$document->kind->isInvoiced()
            ) {
                throw Refused::because('', 'Only a posted invoice or note of this company can come again.');
            }
            $text = self::text($raw);
            $problems = new ProblemList();
            $problems->attempt(static fn () => RecordCheck::name($text('name'), 80));
            $schedule = $problems->attempt(fn (): Recurrence => $this->schedule($actor, $raw));
            $problems->refuse();
            if (null === $schedule) {
                throw new \LogicException();
            }
            $form = $this->documentForm->of($document, false);
            $ask = RecordCheck::yes($text('ask_amount'));
            if ($ask) {
                $form['lines'] = array_map(
                    static fn (mixed $line): array => [...\is_array($line) ? $line : [], 'amount' => ''],
                    \is_array($form['lines']) ? $form['lines'] : [],
                );
            }
            $recurring = new Recurring(
                $actor->companyId,
                $side,
                $text('name'),
                $form,
                $schedule->every,
                $schedule->weeks,
                $schedule->first,
                $schedule->until,
                $schedule->most,
                $ask,
                $actor->userId,
                $this->clock->now(),
            );
            $this->entities->persist($recurring);
            $this->entities->flush();
            $this->history->note($actor, 'recurring', $recurring->id(), 'added', 'like '.$document->number);

            return $recurring->id();
        });
    }

    /**
     * The days that the fields describe.
     *
     * @param array<mixed> $raw
     *
     * @throws Refused with every problem
     */
    public function schedule(Actor $actor, array $raw): Recurrence
    {
        $text = self::text($raw);
        $problems = new ProblemList();
        $input = $this->booksDay->input($actor->companyId);
        $first =
            '' === $text('first_on')
                ? $this->booksDay->of($actor->companyId)
                : $problems->attempt(static fn (): Day => $input->read($text('first_on'), 'first_on'));
        $until =
            '' === $text('until_on')
                ? null
                : $problems->attempt(static fn (): Day => $input->read($text('until_on'), 'until_on'));
        foreach (['weeks', 'most'] as $key) {
            if ('' !== $text($key) && 1 !== preg_match('/\A\d{1,3}\z/', $text($key))) {
                $problems->add($key, 'Give a whole number.');
            }
        }
        $problems->refuse();

        return new Recurrence(
            $first ?? $this->booksDay->of($actor->companyId),
            $text('every'),
            '' === $text('weeks') ? 1 : (int) $text('weeks'),
            $until,
            '' === $text('most') ? null : (int) $text('most'),
        );
    }

    /**
     * As it is now, held until the transaction ends.
     *
     * @throws Refused when there is none
     */
    public function locked(Actor $actor, Side $side, int $id): Recurring
    {
        $recurring = $this->entities->find(Recurring::class, $id, LockMode::PESSIMISTIC_WRITE);
        if (null === $recurring || $recurring->companyId !== $actor->companyId || $recurring->side !== $side) {
            throw Refused::because('', 'There is no such recurring document in this company.', ProblemKind::Unknown);
        }
        $this->entities->refresh($recurring, LockMode::PESSIMISTIC_WRITE);

        return $recurring;
    }

    public function stop(Actor $actor, Side $side, int $id, bool $stop): void
    {
        $this->transaction->run(function () use ($actor, $side, $id, $stop): void {
            $recurring = $this->locked($actor, $side, $id);
            $recurring->stopped = $stop;
            $this->history->note($actor, 'recurring', $id, $stop ? 'stopped' : 'goes on');
        });
    }

    /**
     * @param array<mixed> $raw
     *
     * @return \Closure(string): string
     */
    private static function text(array $raw): \Closure
    {
        return (new Fields($raw))->text(...);
    }

    /** @return list<Recurring> those that go on first, by their next day */
    public function of(int $companyId, Side $side): array
    {
        return $this->entities
            ->getRepository(Recurring::class)
            ->findBy(['companyId' => $companyId, 'side' => $side], ['stopped' => 'ASC', 'nextOn' => 'ASC']);
    }
}
