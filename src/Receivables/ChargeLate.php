<?php

declare(strict_types=1);

namespace Nelbix\App\Receivables;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\InvoiceToPost;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Picked;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Posts proposed finance charges as documents to finance charge income, or waives them: just those that the page showed. The next charge
 * of an item goes on from this day.
 *
 * @phpstan-import-type Charge from ChargesQuery
 */
final readonly class ChargeLate
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ChargesQuery $charges,
        private PostInvoice $postInvoice,
        private InvoiceReader $invoices,
        private Chart $chart,
        private History $history,
        private ClockInterface $clock,
        private BooksDay $booksDay,
        private Picked $picked,
    ) {
    }

    /**
     * @param list<string> $keys of the charges that the page showed
     * @param string|null $waivedWhy null posts them
     *
     * @return int how many; 0 when the page was sent before
     *
     * @throws Refused when one of them is no longer what the page showed, or is waived without a reason
     */
    public function charge(Actor $actor, Day $through, array $keys, ?string $waivedWhy, ?FormKey $form): int
    {
        $today = $this->booksDay->of($actor->companyId);
        if ($today->isBefore($through)) {
            throw Refused::because(
                'through',
                \sprintf('%s is still to come; charge through %s at the latest.', $through->long(), $today->long()),
            );
        }
        if (null !== $waivedWhy && '' === trim($waivedWhy)) {
            throw Refused::because('why', 'Say why it is waived; it is not asked for again.', ProblemKind::Missing);
        }
        $count = 0;
        $this->transaction->once($actor, 'charges', $form, function () use (
            $actor,
            $through,
            $keys,
            $waivedWhy,
            &$count,
        ): int {
            $picked = $this->picked->rows(
                $actor,
                'charges',
                $keys,
                fn (): array => $this->charges->of($actor->companyId, $through),
                'Nothing is picked; pick who is charged.',
                'What is charged changed since this page was loaded; look at it as it stands now.',
            );
            foreach ($picked as $charge) {
                $document = null === $waivedWhy ? $this->post($actor, $charge, $through) : null;
                foreach ($charge['lines'] as $line) {
                    $this->entities->persist(
                        new LateCharge(
                            $actor->companyId,
                            $line['item'],
                            $document,
                            $through,
                            $line['amount'],
                            mb_substr(trim((string) $waivedWhy), 0, 255),
                            $actor->userId,
                            $this->clock->now(),
                            ['rate' => $charge['rate'], 'spans' => $line['spans']],
                        ),
                    );
                }
                if (null !== $waivedWhy) {
                    $this->history->note(
                        $actor,
                        'party',
                        $charge['party_id'],
                        'finance charge waived',
                        \sprintf(
                            '%s %s through %s: %s',
                            Money::of($charge['amount'], $charge['currency'])->decimal(),
                            $charge['currency'],
                            $through->long(),
                            trim($waivedWhy),
                        ),
                    );
                }
            }
            $this->entities->flush();
            $count = \count($picked);

            return 1;
        });

        return $count;
    }

    /** @param Charge $charge */
    private function post(Actor $actor, array $charge, Day $through): int
    {
        $account = $this->chart->account(
            $actor->companyId,
            $this->chart->role($actor->companyId, AccountRole::FinanceChargeIncome),
        );
        $lines = [];
        foreach ($charge['lines'] as $line) {
            $days = array_sum(array_column($line['spans'], 'days'));
            $lines[] = [
                'account' => $account['number'],
                'text' => \sprintf(
                    '%s, %d days at %s %%',
                    $line['number'],
                    $days,
                    rtrim(rtrim($charge['rate'], '0'), '.'),
                ),
                'amount' => Money::of($line['amount'], $charge['currency'])->decimal(),
                'tax_code' => '',
            ];
        }

        return $this->postInvoice->postAll($actor, [
            new InvoiceToPost(
                $this->invoices->read($actor, Side::Receivables, [
                    'kind' => 'finance_charge',
                    'party' => $charge['code'],
                    'document_date' => $through->iso(),
                    'posting_date' => $through->iso(),
                    'currency' => $charge['currency'],
                    'lines' => $lines,
                ]),
            ),
        ])[0];
    }
}
