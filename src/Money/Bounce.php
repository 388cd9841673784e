<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccount;
use Nelbix\App\Books\Document;
use Nelbix\App\Books\HowTakenBack;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Codes\PaymentTermRecord;
use Nelbix\App\Invoices\InvoiceReader;
use Nelbix\App\Invoices\PostInvoice;
use Nelbix\App\Ledger\Chart;
use Nelbix\App\Ledger\PostJournalEntry;
use Nelbix\App\Ledger\Rates;
use Nelbix\App\Parties\Party;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\InvoiceEntry;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * A customer's money bounced: on its own day, with the bank's fee, which is charged on to the customer or not. All of it or nothing.
 * Source: rules.md, Journal entries, bounced receipt.
 */
final readonly class Bounce
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ReverseDocument $reverse,
        private PostJournalEntry $postEntry,
        private PostInvoice $postInvoice,
        private InvoiceReader $invoices,
        private Chart $chart,
        private Rates $rates,
    ) {
    }

    /**
     * @param int $fee what the bank took for it, minor units of the account's currency; 0 for nothing
     * @param bool $chargeOn the customer owes it, by a debit note
     *
     * @return int|null the debit note
     *
     * @throws Refused
     */
    public function record(Actor $actor, int $documentId, Day $day, string $reason, int $fee, bool $chargeOn): ?int
    {
        return $this->transaction->run(function () use ($actor, $documentId, $day, $reason, $fee, $chargeOn): ?int {
            $document = $this->entities->find(Document::class, $documentId);
            if (
                null === $document
                || $document->companyId !== $actor->companyId
                || Side::Receivables !== $document->side
            ) {
                throw Refused::because('', 'There is no such receipt in this company.', ProblemKind::Unknown);
            }
            if ($fee < 0) {
                throw Refused::because('fee', 'The bank’s fee is above zero, or nothing.');
            }
            if ($chargeOn && 0 === $fee) {
                throw Refused::because(
                    'fee',
                    'What is charged on is missing; type the bank’s fee.',
                    ProblemKind::Missing,
                );
            }
            $number = (string) $document->number;
            // a direct debit bounces because the bank says so
            $this->reverse->event($actor, $documentId, $day, HowTakenBack::Bounced, $reason, true);
            if (0 === $fee) {
                return null;
            }
            $bank =
                $this->entities->find(BankAccount::class, (int) $document->bankAccountId) ??
                throw new \LogicException('Money has a bank account.');
            $this->bookFee($actor, $bank, $fee, $day, $number);

            return $chargeOn ? $this->chargeOn($actor, $document, $bank, $fee, $day, $number) : null;
        });
    }

    private function bookFee(Actor $actor, BankAccount $bank, int $fee, Day $day, string $number): void
    {
        $rate = $this->rates->on($actor->companyId, $bank->currency, $actor->baseCurrency, $day, 'fee');
        $base = InvoiceEntry::base($fee, $bank->currency, $actor->baseCurrency, $rate);
        $text = \sprintf('%s bounced: the bank’s fee', $number);
        $this->postEntry->post(
            $actor,
            JournalDraft::of($bank->currency, [
                new DraftLine($this->chart->role($actor->companyId, AccountRole::BankCharges), $base, $fee, $text),
                new DraftLine($bank->accountId, -$base, -$fee, $text),
            ]),
            $day,
            $text,
        );
    }

    /**
     * Terms that fall due at once, where the company has them; else the customer's own hold.
     *
     * @return array<string, string>
     */
    private function atOnce(Actor $actor): array
    {
        $term = $this->entities
            ->getRepository(PaymentTermRecord::class)
            ->findOneBy(['companyId' => $actor->companyId, 'code' => 'NOW', 'retired' => false]);

        return null === $term ? [] : ['terms' => $term->code];
    }

    private function chargeOn(
        Actor $actor,
        Document $document,
        BankAccount $bank,
        int $fee,
        Day $day,
        string $number,
    ): int {
        $party = $this->entities->find(Party::class, (int) $document->partyId);
        if (null === $party || $party->nobody) {
            throw Refused::because(
                'charge_on',
                'Nobody knows whose money it was; the fee is charged on to no customer.',
            );
        }
        $account = $this->chart->account(
            $actor->companyId,
            $this->chart->role($actor->companyId, AccountRole::BankCharges),
        );

        return $this->postInvoice->post(
            $actor,
            $this->invoices
                ->read($actor, Side::Receivables, [
                    'kind' => 'debit_note',
                    'party' => $party->code,
                    'document_date' => $day->iso(),
                    'posting_date' => $day->iso(),
                    ...$this->atOnce($actor),
                    'currency' => $bank->currency,
                    'lines' => [
                        [
                            'account' => $account['number'],
                            'text' => \sprintf('Fee of our bank, %s came back', $number),
                            'amount' => Money::of($fee, $bank->currency)->decimal(),
                            'tax_code' => '',
                        ],
                    ],
                ])
                ->followingFromDebt(),
        );
    }
}
