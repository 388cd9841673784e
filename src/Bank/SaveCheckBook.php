<?php

declare(strict_types=1);

namespace Nelbix\App\Bank;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;

/** Adds a check book to a bank account, or moves the print on its pre-printed stock. */
final readonly class SaveCheckBook
{
    private const MOST_OFFSET = 30;

    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private History $history,
    ) {
    }

    /**
     * @param array<mixed> $raw name, first_number
     *
     * @throws Refused when a number of it belongs to another book of the account already
     */
    public function add(Actor $actor, int $bankAccountId, array $raw): int
    {
        return $this->transaction->run(function () use ($actor, $bankAccountId, $raw): int {
            $bank = $this->entities->find(BankAccount::class, $bankAccountId);
            if (null === $bank || $bank->companyId !== $actor->companyId || $bank->retired) {
                throw Refused::because(
                    'bank',
                    'There is no such bank account in use; choose one from the list.',
                    ProblemKind::Unknown,
                );
            }
            $fields = new Fields($raw);
            $problems = new ProblemList();
            $problems->attempt(static fn () => RecordCheck::name($fields->text('name'), 60));
            $first = $fields->text('first_number');
            if (1 !== preg_match('/\A[1-9]\d{0,11}\z/', $first)) {
                $problems->add('first_number', 'The first number is a whole number of up to 12 digits.');
            }
            foreach (
                $this->entities->getRepository(CheckBook::class)->findBy(['bankAccountId' => $bankAccountId]) as $other
            ) {
                // the numbers of a book run on from its first; another may begin only beyond what is used
                if ((int) $first >= $other->firstNumber && (int) $first < $other->nextNumber + SkipChecks::MOST) {
                    $problems->add(
                        'first_number',
                        \sprintf(
                            '%s holds the numbers from %d on and stands at %d; begin this one at %d or later, or below %d.',
                            $other->name,
                            $other->firstNumber,
                            $other->nextNumber,
                            $other->nextNumber + SkipChecks::MOST,
                            $other->firstNumber,
                        ),
                    );
                }
            }
            $problems->refuse();
            $book = new CheckBook($bankAccountId, $fields->text('name'), (int) $first, (int) $first);
            $this->entities->persist($book);
            $this->entities->flush();
            $this->history->note($actor, 'check_book', $book->id(), 'added', $book->name.' from '.$first);

            return $book->id();
        });
    }

    /**
     * @param array<mixed> $raw offset_x, offset_y: millimetres to the right and down, negative for left and up
     *
     * @throws Refused
     */
    public function align(Actor $actor, int $checkBookId, array $raw): void
    {
        $this->transaction->run(function () use ($actor, $checkBookId, $raw): void {
            $book = $this->entities->find(CheckBook::class, $checkBookId);
            $bank = null === $book ? null : $this->entities->find(BankAccount::class, $book->bankAccountId);
            if (null === $book || $bank?->companyId !== $actor->companyId) {
                throw Refused::because('', 'There is no such check book in this company.', ProblemKind::Unknown);
            }
            $fields = new Fields($raw);
            $read = static function (string $key) use ($fields): int {
                $text = str_replace("\u{2212}", '-', $fields->text($key));
                if (1 !== preg_match('/\A-?\d{1,2}\z/', $text) || abs((int) $text) > self::MOST_OFFSET) {
                    throw Refused::because(
                        $key,
                        \sprintf('Move the print by whole millimetres, up to %d either way.', self::MOST_OFFSET),
                    );
                }

                return (int) $text;
            };
            [$book->offsetX, $book->offsetY] = [$read('offset_x'), $read('offset_y')];
            $this->history->note(
                $actor,
                'check_book',
                $checkBookId,
                'aligned',
                \sprintf('%d mm right, %d mm down', $book->offsetX, $book->offsetY),
            );
        });
    }
}
