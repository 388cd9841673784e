<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\Lookup;
use Nelbix\App\Codes\CodeBook;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\Bulk;
use Nelbix\App\Platform\Fields;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\StoresNumbers;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\AmountInput;
use Nelbix\Core\Money\Currency;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Asks a customer for a prepayment, and takes that back while no money came. Nothing is posted by either. */
final readonly class AskPrepayment implements StoresNumbers
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private PrepaymentRequests $requests,
        private Lookup $lookup,
        private CodeBook $codes,
        private BooksDay $booksDay,
        private Numbering $numbering,
        private History $history,
        private ClockInterface $clock,
        private Bulk $bulk,
    ) {
    }

    /**
     * @param array<mixed> $raw party, amount, currency, pay_by, tax_code, text
     *
     * @return int the request's id
     *
     * @throws Refused with every problem
     */
    public function ask(Actor $actor, array $raw, ?FormKey $form): int
    {
        $problems = new ProblemList();
        $text = (new Fields($raw))->text(...);
        $today = $this->booksDay->of($actor->companyId);
        $party = $problems->attempt(fn () => $this->lookup->party($actor->companyId, Side::Receivables, $text('party')));
        $currency = '' === $text('currency') ? $party->currency ?? $actor->baseCurrency : $text('currency');
        $currency = $problems->attempt(static fn (): string => Currency::of($currency)->code) ?? $actor->baseCurrency;
        $amount =
            '' === $text('amount')
                ? 0
                : $problems->attempt(
                    static fn (): int => AmountInput::read($text('amount'), Currency::of($currency), 'amount')->minor,
                );
        if (null !== $amount && $amount <= 0) {
            $problems->add('amount', 'Say how much is asked for, above zero.', ProblemKind::Missing);
        }
        $by =
            '' === $text('pay_by')
                ? $today->plusDays(14)
                : $problems->attempt(
                    fn (): Day => $this->booksDay->input($actor->companyId)->read($text('pay_by'), 'pay_by', $today),
                );
        if (null !== $by && $by->isBefore($today)) {
            $problems->add('pay_by', \sprintf('It is to be paid by a day from %s on.', $today->long()));
        }
        $code =
            '' === $text('tax_code')
                ? null
                : $problems->attempt(
                    fn () => $this->codes->taxCode($actor->companyId, Side::Receivables, $text('tax_code'), 'tax_code'),
                );
        if (null !== $code && !$code->taxesPrepayments) {
            $problems->add(
                'tax_code',
                \sprintf('Tax %s is not owed of prepayments; leave it empty, or say so in Setup.', $code->code),
            );
        }
        if ('' === $text('text')) {
            $problems->add('text', 'Say what the prepayment is for; the customer reads it.', ProblemKind::Missing);
        }
        $problems->refuse();
        if (null === $party || null === $amount || null === $by) {
            throw new \LogicException('What is missing was refused.');
        }

        return $this->transaction->once($actor, 'prepayment request', $form, function () use (
            $actor,
            $party,
            $today,
            $by,
            $currency,
            $amount,
            $code,
            $text,
        ): int {
            $request = new PrepaymentRequest(
                $actor->companyId,
                $party->id(),
                $today,
                $by,
                $currency,
                $amount,
                $code?->id(),
                mb_substr($text('text'), 0, 255),
                $actor->userId,
                $this->clock->now(),
            );
            $this->entities->persist($request);
            $this->entities->flush();
            $this->numbering->announce(
                $actor->companyId,
                'PQ',
                $today,
                $request,
                static function (string $number) use ($request): void {
                    $request->number = $number;
                },
                $this,
            );
            $this->history->note($actor, 'prepayment_request', $request->id(), 'asked for');

            return $request->id();
        });
    }

    /** @throws Refused without a reason, or once money came */
    public function withdraw(Actor $actor, int $id, string $why): PrepaymentRequest
    {
        if ('' === trim($why)) {
            throw Refused::because(
                'why',
                'Say why it is withdrawn; the history keeps your words.',
                ProblemKind::Missing,
            );
        }

        return $this->transaction->run(function () use ($actor, $id, $why): PrepaymentRequest {
            $request = $this->entities->find(PrepaymentRequest::class, $id, LockMode::PESSIMISTIC_WRITE);
            if (null === $request || $request->companyId !== $actor->companyId) {
                throw Refused::because('', 'There is no such request in this company.', ProblemKind::Unknown);
            }
            $this->entities->refresh($request, LockMode::PESSIMISTIC_WRITE);
            $state = $this->requests->one($actor->companyId, $id)['state'] ?? '';
            if ('open' !== $state) {
                throw Refused::because('', \sprintf('%s is %s.', $request->number, $state), ProblemKind::Taken);
            }
            $request->withdrawnOn = $this->booksDay->of($actor->companyId);
            $request->withdrawnWhy = mb_substr(trim($why), 0, 255);
            $this->entities->flush();
            $this->history->note($actor, 'prepayment_request', $id, 'withdrawn', $request->withdrawnWhy);

            return $request;
        });
    }

    public function storeNumbers(array $records): void
    {
        $numbers = [];
        foreach ($records as $request) {
            \assert($request instanceof PrepaymentRequest);
            $numbers[$request->id()] = ['number' => $request->number];
        }
        $this->bulk->update('prepayment_request', $numbers);
    }
}
