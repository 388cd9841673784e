<?php

declare(strict_types=1);

namespace Nelbix\App\Banking;

use Doctrine\DBAL\Connection;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankCheck;
use Nelbix\App\Bank\CheckBook;
use Nelbix\App\Bank\CheckState;
use Nelbix\App\Books\Approval;
use Nelbix\App\Books\Document;
use Nelbix\App\Payables\RemittanceAdvice;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Formats\AmountInWords;
use Nelbix\Core\Money\Money;
use Nelbix\Core\Refused;

/** The check of a payment that was made without a proposal: its page, and what to do when that came out spoiled. */
final readonly class OneCheck
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private Connection $db,
        private RemittanceAdvice $advice,
        private History $history,
    ) {
    }

    /**
     * What stands on it and on its stub, as the template of checks takes it.
     *
     * @return array<string, mixed>
     *
     * @throws Refused when there is none, it is not to be printed any more, or nobody approved the payment yet
     */
    public function page(Actor $actor, int $documentId): array
    {
        [$document, $check] = $this->issued($actor, $documentId);
        [$name, $street, $city, $country] = explode("\n", (string) $check->payee) + ['', '', '', ''];
        $book = $this->db->fetchAssociative(
            <<<'SQL'
            SELECT b.name AS bank, c.offset_x, c.offset_y
            FROM check_book c
            JOIN bank_account b ON b.id = c.bank_account_id
            WHERE c.id = ?
            SQL
            ,
            [$check->checkBookId],
        );
        $of = $this->advice->of($actor->companyId, [$documentId])[0] ?? ['lines' => []];

        return [
            ...$book ?: [],
            'number' => $check->number,
            'check_date' => $check->checkDate?->iso(),
            'amount' => $check->amount,
            'currency' => $document->currency,
            'words' => AmountInWords::of(Money::of($check->amount, $document->currency)),
            'name' => $name,
            'street' => $street,
            'city' => $city,
            'country' => $country,
            'lines' => array_map(
                static fn (array $l): array => [
                    ...$l,
                    'open' => $l['applied'],
                    'pay' => $l['paid'],
                    'currency' => $document->currency,
                ],
                $of['lines'],
            ),
        ];
    }

    /**
     * The page came out spoiled: its number is void for ever, and the payment gets the next one.
     *
     * @return int the new number
     *
     * @throws Refused without a reason, or when there is no check that could be printed again
     */
    public function spoiled(Actor $actor, int $documentId, int $number, string $reason): int
    {
        return $this->transaction->run(function () use ($actor, $documentId, $number, $reason): int {
            if ('' === trim($reason)) {
                throw Refused::because('reason', 'Say what became of the check.');
            }
            [$document, $check] = $this->issued($actor, $documentId, $number);
            $book =
                $this->entities->find(CheckBook::class, $check->checkBookId, LockMode::PESSIMISTIC_WRITE) ??
                throw new \LogicException('A check without its book.');
            $this->entities->refresh($book, LockMode::PESSIMISTIC_WRITE);
            $check->state = CheckState::Spoiled;
            $check->reason = mb_substr(trim($reason), 0, 255);
            $check->documentId = null;
            $next = new BankCheck($book->id(), $book->nextNumber++, CheckState::Issued);
            $next->partyId = $check->partyId;
            $next->documentId = $documentId;
            $next->amount = $check->amount;
            $next->checkDate = $check->checkDate;
            $next->payee = $check->payee;
            $this->entities->persist($next);
            $before = 'check '.$check->number;
            if (str_starts_with($document->reference, $before)) {
                $document->reference = 'check '.$next->number.substr($document->reference, \strlen($before));
            }
            $this->history->note(
                $actor,
                'document',
                $documentId,
                'check spoiled',
                \sprintf('%d, printed anew as %d: %s', $check->number, $next->number, $check->reason),
            );

            return $next->number;
        });
    }

    /**
     * @param int|null $number as the page that asks knows it
     *
     * @return array{Document, BankCheck}
     *
     * @throws Refused
     */
    private function issued(Actor $actor, int $documentId, ?int $number = null): array
    {
        $document = $this->entities->find(Document::class, $documentId);
        $check = $this->entities
            ->getRepository(BankCheck::class)
            ->findOneBy(['documentId' => $documentId, 'state' => CheckState::Issued, 'proposalId' => null]);
        if (null !== $check && null !== $number) {
            $this->entities->refresh($check, LockMode::PESSIMISTIC_WRITE);
        }
        if (
            $document?->companyId !== $actor->companyId
            || null === $check?->payee
            || CheckState::Issued !== $check->state
            || $check->number !== ($number ?? $check->number)
        ) {
            throw Refused::because('', 'There is no check to print for this payment; load its page anew.');
        }
        if (\in_array($document->approval, [Approval::Awaiting, Approval::Refused], true)) {
            throw Refused::because(
                '',
                \sprintf('%s is not approved; its check is printed when somebody else approved it.', $document->number),
            );
        }

        return [$document, $check];
    }
}
