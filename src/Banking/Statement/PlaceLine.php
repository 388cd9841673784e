<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Money\Bounce;
use Nelbix\App\Money\PostMoney;
use Nelbix\App\Money\TakesBankLine;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\FormKey;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\App\Platform\Typography;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/**
 * Gives a line of a statement, or a part of it, its place: what was recorded before is joined, everything else is posted. All or
 * nothing; a line that has its place already, or a record that another line took, is refused. Source: rules.md, Bank statements.
 */
final readonly class PlaceLine implements TakesBankLine
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private BankAccounts $banks,
        private PostMoney $postMoney,
        private Bounce $bounce,
        private LineAccounts $accounts,
        private LedgerWriter $ledger,
        private JoinedEntries $joined,
        private RuleCounts $rules,
        private History $history,
    ) {
    }

    /**
     * @param string $lookAlike why it is not the receipt or payment that it looks like, when that was asked
     *
     * @throws Refused
     */
    public function place(Actor $actor, int $lineId, Choice $choice, string $lookAlike = ''): Line
    {
        return $this->transaction->run(function () use ($actor, $lineId, $choice, $lookAlike): Line {
            $line = $this->locked($actor, $lineId);
            self::fits($line, $choice);
            $bank =
                $this->banks->find($actor->companyId, $line->bankAccountId) ??
                throw new \LogicException('It has a bank.');
            match ($choice->kind) {
                PartKind::Joined => $this->join($actor, $bank, $line, $choice),
                PartKind::Items, PartKind::Unapplied => $this->money($actor, $bank, $line, $choice, $lookAlike),
                PartKind::Accounts => $this->post(
                    $actor,
                    $line,
                    PartKind::Accounts,
                    $choice,
                    $choice->amount,
                    $this->accounts->draft(
                        $actor,
                        $bank,
                        $line->day,
                        $choice->amount,
                        $choice->parts,
                        LineMoney::text($line),
                    ),
                ),
                PartKind::Transfer => $this->post(
                    $actor,
                    $line,
                    PartKind::Transfer,
                    $choice,
                    $choice->amount,
                    $this->accounts->transfer(
                        $actor,
                        $bank,
                        $this->banks->find($actor->companyId, $choice->id) ??
                            throw Refused::because('bank', 'There is no such bank account.', ProblemKind::Unknown),
                        $line->day,
                        $choice->amount,
                        LineMoney::text($line),
                    ),
                ),
                PartKind::Bounce => $this->bounced($actor, $line, $choice),
            };
            $line->waiting -= $choice->amount;
            $this->rules->placed($actor, $line, $choice);
            $this->history->note(
                $actor,
                'statement_line',
                $line->id(),
                'placed',
                $choice->kind->value.
                    ' '.
                    Typography::amount($choice->amount, $bank->currency).
                    ' '.
                    $bank->currency,
            );

            return $line;
        });
    }

    /**
     * The same by hand, from the page of the line: a part that is sent twice is placed once.
     *
     * @return int the line
     *
     * @throws Refused as place() does, or when it was sent before with something else in it
     */
    public function once(Actor $actor, int $lineId, Choice $choice, ?FormKey $form): int
    {
        return $this->transaction->once(
            $actor,
            'bank_line',
            $form,
            fn (): int => $this->place($actor, $lineId, $choice)->id(),
        );
    }

    /** A receipt or payment that was posted for the line on the board is joined with it. Call inside its transaction. */
    public function takes(Actor $actor, int $lineId, int $documentId): void
    {
        $line = $this->locked($actor, $lineId);
        $entry = $this->joined->ofDocument($documentId);
        $moved = $this->joined->left($actor, $line, $entry);
        $choice = new Choice(PartKind::Items, $moved, id: $documentId);
        self::fits($line, $choice);
        $this->entities->persist($part = $this->part($actor, $line, PartKind::Items, $moved, true, $choice));
        $part->entryId = $entry;
        $part->documentId = $documentId;
        $line->waiting -= $moved;
        $this->rules->placed($actor, $line, $choice);
        $this->history->note($actor, 'statement_line', $line->id(), 'placed', 'on the board');
    }

    private function locked(Actor $actor, int $lineId): Line
    {
        $line = $this->entities->find(Line::class, $lineId, LockMode::PESSIMISTIC_WRITE);
        if (null === $line || $line->companyId !== $actor->companyId) {
            throw Refused::because(
                '',
                'There is no such line in this company; its statement may have been replaced. Load the page anew.',
                ProblemKind::Unknown,
            );
        }
        $this->entities->refresh($line, LockMode::PESSIMISTIC_WRITE);

        return $line;
    }

    /** @throws Refused when the line has its place, or not so much of it is left */
    private static function fits(Line $line, Choice $choice): void
    {
        if (0 === $line->waiting) {
            throw Refused::because(
                '',
                \sprintf('The line of %s has its place already; somebody was faster.', $line->day->long()),
            );
        }
        $same = ($choice->amount <=> 0) === ($line->waiting <=> 0);
        if (0 === $choice->amount || !$same || abs($choice->amount) > abs($line->waiting)) {
            throw Refused::because(
                'amount',
                'What is placed is between nothing and what is left of the line; load the page anew, or type less.',
            );
        }
    }

    private function part(Actor $actor, Line $line, PartKind $kind, int $amount, bool $own, Choice $choice): Part
    {
        $part = new Part(
            $line->id(),
            $line->companyId,
            $line->bankAccountId,
            $kind,
            $amount,
            $own,
            $choice->found->value ?? '',
            $actor->userId,
            $this->rules->now(),
        );
        $part->ruleId = $this->rules->known($actor, $choice->rule);

        return $part;
    }

    private function join(Actor $actor, BankRow $bank, Line $line, Choice $choice): void
    {
        $parts = $this->joined->parts($actor, $line, $choice);
        foreach ($parts as $entry => [$amount, $document]) {
            $this->entities->persist($part = $this->part($actor, $line, PartKind::Joined, $amount, false, $choice));
            $part->entryId = $entry;
            $part->documentId = 0 === $document ? null : $document;
            $this->entities->flush();
            $this->joined->cleared($actor, $document, $entry, $line);
        }
        $off = $choice->amount - array_sum(array_column($parts, 0));
        if (0 === $off) {
            return;
        }
        if ('' === $choice->difference) {
            throw Refused::because(
                'difference',
                \sprintf(
                    'Line and record differ by %s %s; say which account takes that.',
                    Typography::amount($off, $bank->currency),
                    $bank->currency,
                ),
                ProblemKind::Missing,
            );
        }
        $row = LineAccounts::plain($choice->difference, $off);
        $this->post(
            $actor,
            $line,
            PartKind::Accounts,
            $choice,
            $off,
            $this->accounts->draft($actor, $bank, $line->day, $off, [$row], LineMoney::text($line)),
        );
    }

    private function money(Actor $actor, BankRow $bank, Line $line, Choice $choice, string $lookAlike): void
    {
        $text = LineMoney::text($line);
        $document = $this->postMoney->post(
            $actor,
            LineMoney::of($bank, $line->day, $text, $line->bankReference, $choice, $lookAlike),
        );
        $entry = $this->joined->ofDocument($document);
        if ($this->joined->left($actor, $line, $entry) !== $choice->amount) {
            throw new \LogicException('Money posted for a line moved another amount than the line.');
        }
        $part = $this->part($actor, $line, $choice->kind, $choice->amount, true, $choice);
        $part->entryId = $entry;
        $part->documentId = $document;
        $this->entities->persist($part);
    }

    private function bounced(Actor $actor, Line $line, Choice $choice): void
    {
        $this->bounce->record($actor, $choice->id, $line->day, LineMoney::text($line), 0, false);
        [$opposite, $entry] = $this->joined->oppositeOf($choice->id);
        if ($this->joined->left($actor, $line, $entry) !== $choice->amount) {
            throw Refused::because('amount', 'The receipt came with another amount than the bank takes back.');
        }
        $part = $this->part($actor, $line, PartKind::Bounce, $choice->amount, true, $choice);
        $part->entryId = $entry;
        $part->documentId = $opposite;
        $this->entities->persist($part);
    }

    private function post(
        Actor $actor,
        Line $line,
        PartKind $kind,
        Choice $choice,
        int $amount,
        JournalDraft $draft,
    ): void {
        $part = $this->part($actor, $line, $kind, $amount, true, $choice);
        $this->entities->persist($part);
        $this->entities->flush();
        $part->entryId = $this->ledger
            ->write(
                $actor,
                new EntryOrder($draft, $line->day, LineMoney::text($line), [], Source::bankLine($part->id())),
            )
            ->id();
    }
}
