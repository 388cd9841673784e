<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Books\AdjustmentRequest;
use Nelbix\App\Books\PlacementRequest;
use Nelbix\App\Money\Method;
use Nelbix\App\Money\MoneyInput;
use Nelbix\App\Money\PostMoney;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Company;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\Picked;
use Nelbix\App\Platform\Settings;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Formats\Payment\BankKey;
use Nelbix\Core\Formats\Payment\DirectDebit;
use Nelbix\Core\Formats\Payment\DirectDebitFile;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Nelbix\Core\Settlement\AdjustmentKind;
use Psr\Clock\ClockInterface;

/**
 * Collects what customers owe by their mandates, on a day: receipts that settle just what the page showed, one file for the bank, and an
 * announcement to each. All of it or nothing.
 *
 * @phpstan-import-type Due from DebitsQuery
 */
final readonly class CollectDebits
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private Connection $db,
        private DebitsQuery $debits,
        private Picked $picked,
        private PostMoney $postMoney,
        private AnnounceDebits $announce,
        private Settings $settings,
        private BooksDay $booksDay,
        private Numbering $numbering,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param list<string> $keys of the customers that the page showed
     *
     * @return array{file: int, announced: int} the file, and how many were told by mail; -1 when the page was sent before
     *
     * @throws Refused when what is owed changed since, the day is too near, or the company has no creditor identifier
     */
    public function collect(Actor $actor, BankRow $bank, Day $through, Day $on, array $keys, ?FormKey $form): array
    {
        $this->mayBeOn($actor, $on);
        $creditor = $this->settings->of($actor->companyId)->values['creditor_id'];
        if ('' === $creditor) {
            throw Refused::because(
                'debits',
                'The company has no creditor identifier; a controller enters it under Setup.',
                ProblemKind::Missing,
            );
        }
        $announced = -1;
        $file = $this->transaction->once($actor, 'debits', $form, function () use (
            $actor,
            $bank,
            $through,
            $on,
            $keys,
            $creditor,
            &$announced,
        ): int {
            $rows = $this->picked->rows(
                $actor,
                'debits',
                $keys,
                fn (): array => $this->debits->due($actor->companyId, $bank, $through, $on),
                'Nothing is picked; pick from whom it is collected.',
                'What is due changed since this page was loaded; look at it as it stands now.',
            );
            $number = $this->numbering->document($actor->companyId, 'BF', $on);
            $receipts = $this->postMoney->postAll(
                $actor,
                array_map(static fn (array $r): MoneyInput => self::money($r, $bank, $on), $rows),
            );
            $file = $this->file($actor, $bank, $on, $number, $creditor, $rows);
            foreach ($rows as $k => $row) {
                $this->db->insert('bank_file_line', [
                    'bank_file_id' => $file->id(),
                    'document_id' => $receipts[$k],
                    'end_to_end' => self::endToEnd($number, $k),
                    'amount' => $row['amount'],
                    'mandate_id' => $row['mandate_id'],
                ]);
            }
            $this->history->note($actor, 'bank_file', $file->id(), 'made', \sprintf('%d direct debits', \count($rows)));
            $announced = $this->announce->announce($actor, $file);

            return $file->id();
        });

        return ['file' => $file, 'announced' => $announced];
    }

    /** @throws Refused when customers could not be told in time */
    private function mayBeOn(Actor $actor, Day $on): void
    {
        $days = (int) $this->settings->of($actor->companyId)->values['debit_notice_days'];
        $first = $this->booksDay->of($actor->companyId)->plusDays($days);
        if ($on->isBefore($first)) {
            throw Refused::because(
                'on',
                \sprintf('It is announced %d days before; collect on %s or later.', $days, $first->long()),
            );
        }
    }

    /** @param Due $row */
    private static function money(array $row, BankRow $bank, Day $on): MoneyInput
    {
        $placements = $adjustments = [];
        foreach ($row['items'] as $item) {
            $placements[] = new PlacementRequest($item['id'], $item['open']);
            if ($item['discount'] > 0) {
                $adjustments[] = new AdjustmentRequest($item['id'], AdjustmentKind::Discount, -$item['discount']);
            }
        }

        return new MoneyInput(
            Side::Receivables,
            DocumentKind::Receipt,
            $row['party_id'],
            $bank->id,
            $on,
            $bank->currency,
            $row['amount'],
            'mandate '.$row['mandate'],
            Method::Debit->value,
            $placements,
            $adjustments,
        );
    }

    /** @param non-empty-list<Due> $rows */
    private function file(Actor $actor, BankRow $bank, Day $on, string $number, string $creditor, array $rows): BankFile
    {
        $content = DirectDebitFile::write(
            $number,
            $this->clock->now(),
            $on,
            $this->entities->find(Company::class, $actor->companyId)->name ?? '',
            $creditor,
            new BankKey($bank->iban, $bank->bic),
            $bank->currency,
            array_map(
                static fn (int $k, array $r): DirectDebit => new DirectDebit(
                    self::endToEnd($number, $k),
                    $r['name'],
                    new BankKey($r['iban'], $r['bic']),
                    $r['amount'],
                    $r['mandate'],
                    Day::of($r['signed_on']),
                    $r['sequence'],
                    $r['scheme'],
                    array_column($r['items'], 'number'),
                ),
                array_keys($rows),
                $rows,
            ),
        );
        $file = new BankFile(
            $actor->companyId,
            $bank->id,
            null,
            $number,
            FileFormat::Debit,
            $on,
            \count($rows),
            array_sum(array_column($rows, 'amount')),
            $content,
            hash('sha256', $content),
            $actor->userId,
            $this->clock->now(),
        );
        $this->entities->persist($file);
        $this->entities->flush();

        return $file;
    }

    private static function endToEnd(string $number, int $k): string
    {
        return \sprintf('%s-%d', $number, $k + 1);
    }
}
