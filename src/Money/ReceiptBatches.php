<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\RecordCheck;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Batches of receipts: begun with the figures they are to come to, closed when they do. Amounts in the bank account's currency; what was
 * taken back does not count.
 *
 * @phpstan-type BatchRow array{id: int, name: string, posting_date: string, bank_code: string, bank: string, currency: string,
 *     control_count: ?int, control_total: ?int, closed: bool, closed_why: string, by_name: string, count: int, total: int}
 */
final readonly class ReceiptBatches
{
    public function __construct(
        private Connection $db,
        private EntityManagerInterface $entities,
        private Transaction $transaction,
        private BankAccounts $banks,
        private BooksDay $booksDay,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /** @return list<BatchRow> the open ones first, the newest first */
    public function of(int $companyId, int $most = 200): array
    {
        return $this->rows('b.company_id = ?', [$companyId], $most);
    }

    /** @return BatchRow|null */
    public function one(int $companyId, int $id): ?array
    {
        return $this->rows('b.company_id = ? AND b.id = ?', [$companyId, $id], 1)[0] ?? null;
    }

    /** @return list<array<string, mixed>> its receipts, as they were entered */
    public function receipts(int $id): array
    {
        return $this->db->fetchAllAssociative(
            <<<'SQL'
            SELECT d.id, d.number, d.state, d.taken_back, d.posting_date, d.method, d.their_number, d.reference,
                IF(d.bank_amount = 0, d.total, d.bank_amount) AS amount, p.name
            FROM document d
            LEFT JOIN party p ON p.id = d.party_id
            WHERE d.receipt_batch_id = ? AND d.reverses_id IS NULL
            ORDER BY d.id
            SQL
            ,
            [$id],
        );
    }

    /**
     * The batch that money is entered with, if any.
     *
     * @throws Refused when it is closed, or is of another bank account
     */
    public function mustBeOpen(Actor $actor, MoneyInput $input): ?ReceiptBatch
    {
        if (null === $input->receiptBatchId) {
            return null;
        }
        $batch = $this->locked($actor, $input->receiptBatchId);
        if ($batch->bankAccountId !== $input->bankAccountId) {
            throw Refused::because(
                'bank',
                \sprintf('The batch “%s” is of another bank account; choose that, or leave the batch.', $batch->name),
            );
        }

        return $batch;
    }

    /**
     * @param array<mixed> $raw name, posting_date, bank, control_count, control_total
     * @param FormKey|null $form the same one twice begins one batch
     *
     * @throws Refused with every problem
     */
    public function begin(Actor $actor, array $raw, ?FormKey $form = null): int
    {
        return $this->transaction->once($actor, 'receipt batch', $form, function () use ($actor, $raw): int {
            $problems = new ProblemList();
            $text = (new Fields($raw))->text(...);
            $problems->attempt(static fn () => RecordCheck::name($text('name'), 80));
            $bank = $problems->attempt(fn (): BankRow => $this->banks->named($actor->companyId, $text('bank')));
            $today = $this->booksDay->of($actor->companyId);
            $day =
                '' === $text('posting_date')
                    ? $today
                    : $problems->attempt(
                        fn (): Day => $this->booksDay
                            ->input($actor->companyId)
                            ->read($text('posting_date'), 'posting_date'),
                    );
            if ('' !== $text('control_count') && 1 !== preg_match('/\A\d{1,5}\z/', $text('control_count'))) {
                $problems->add('control_count', 'The count is a whole number of receipts.');
            }
            $currency = Currency::of($bank->currency ?? $actor->baseCurrency);
            $total =
                '' === $text('control_total')
                    ? null
                    : $problems->attempt(
                        static fn (): int => AmountInput::read($text('control_total'), $currency, 'control_total')
                            ->minor,
                    );
            $problems->refuse();
            $batch = new ReceiptBatch(
                $actor->companyId,
                $text('name'),
                $day ?? $today,
                $bank->id ?? throw new \LogicException('It was refused.'),
                '' === $text('control_count') ? null : (int) $text('control_count'),
                $total,
                $actor->userId,
                $this->clock->now(),
            );
            $this->entities->persist($batch);
            $this->entities->flush();
            $this->history->note($actor, 'receipt_batch', $batch->id(), 'begun');

            return $batch->id();
        });
    }

    /** @throws Refused when it does not come to its figures and nobody says why, or is closed already */
    public function close(Actor $actor, int $id, string $why): void
    {
        $this->transaction->run(function () use ($actor, $id, $why): void {
            $batch = $this->locked($actor, $id);
            $row = $this->one($actor->companyId, $id) ?? throw new \LogicException();
            $off = self::off($row);
            if ([] !== $off && '' === trim($why)) {
                throw Refused::because(
                    'why',
                    \sprintf(
                        'The batch does not come to its figures: %s. Mend it, or say why it is closed so.',
                        implode(', ', $off),
                    ),
                );
            }
            $batch->closedAt = $this->clock->now();
            $batch->closedWhy = [] === $off ? '' : mb_substr(trim($why), 0, 255);
            $this->entities->flush();
            $this->history->note($actor, 'receipt_batch', $id, 'closed', $batch->closedWhy);
        });
    }

    /**
     * What a batch is off its figures by, in words; empty when it comes to them.
     *
     * @param BatchRow $row
     *
     * @return list<string>
     */
    public static function off(array $row): array
    {
        $off = [];
        if (null !== $row['control_count'] && $row['control_count'] !== $row['count']) {
            $off[] = \sprintf('%d of %d receipts', $row['count'], $row['control_count']);
        }
        if (null !== $row['control_total'] && $row['control_total'] !== $row['total']) {
            $off[] = \sprintf(
                '%s of %s %s',
                Money::of($row['total'], $row['currency'])->decimal(),
                Money::of($row['control_total'], $row['currency'])->decimal(),
                $row['currency'],
            );
        }

        return $off;
    }

    private function locked(Actor $actor, int $id): ReceiptBatch
    {
        $batch = $this->entities->find(ReceiptBatch::class, $id, LockMode::PESSIMISTIC_WRITE);
        if (null === $batch || $batch->companyId !== $actor->companyId) {
            throw Refused::because('', 'There is no such batch of receipts in this company.', ProblemKind::Unknown);
        }
        $this->entities->refresh($batch, LockMode::PESSIMISTIC_WRITE);

        return null === $batch->closedAt
            ? $batch
            : throw Refused::because(
                '',
                \sprintf('The batch “%s” is closed; nothing is added to it.', $batch->name),
                ProblemKind::Taken,
            );
    }

    /**
     * @param list<mixed> $parameters
     *
     * @return list<BatchRow>
     */
    private function rows(string $where, array $parameters, int $most): array
    {
        return array_map(
            static fn (array $r): array => [
                'id' => (int) $r['id'],
                'name' => (string) $r['name'],
                'posting_date' => (string) $r['posting_date'],
                'bank_code' => (string) $r['bank_code'],
                'bank' => (string) $r['bank'],
                'currency' => (string) $r['currency'],
                'control_count' => null === $r['control_count'] ? null : (int) $r['control_count'],
                'control_total' => null === $r['control_total'] ? null : (int) $r['control_total'],
                'closed' => null !== $r['closed_at'],
                'closed_why' => (string) $r['closed_why'],
                'by_name' => (string) $r['by_name'],
                'count' => (int) $r['n'],
                'total' => (int) $r['total'],
            ],
            $this->db->fetchAllAssociative(
                <<<SQL
                SELECT b.id, b.name, b.posting_date, a.code AS bank_code, a.name AS bank, a.currency, b.control_count, b.control_total,
                    b.closed_at, b.closed_why, u.name AS by_name, COUNT(d.id) AS n,
                    COALESCE(SUM(IF(d.bank_amount = 0, d.total, d.bank_amount)), 0) AS total
                FROM receipt_batch b
                JOIN bank_account a ON a.id = b.bank_account_id
                JOIN app_user u ON u.id = b.created_by_id
                LEFT JOIN document d ON d.receipt_batch_id = b.id AND d.state = 'posted'
                WHERE $where
                GROUP BY b.id, b.name, b.posting_date, a.code, a.name, a.currency, b.control_count, b.control_total, b.closed_at,
                    b.closed_why, u.name
                ORDER BY b.closed_at IS NOT NULL, b.id DESC
                LIMIT $most
                SQL
                ,
                $parameters,
            ),
        );
    }
}
