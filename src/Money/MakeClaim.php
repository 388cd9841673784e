<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Books\OpenItemRecord;
use Nelbix\App\Books\Transfer;
use Nelbix\App\Books\TransferTarget;
use Nelbix\App\People\Colleagues;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Money\Money;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Takes a part of an item out of what is simply owed: a claim of its own on the same account, due as the item was. Nothing is posted by it.
 * What somebody asks to let go above the limit waits as such a claim for somebody else's word.
 */
final readonly class MakeClaim
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ItemLocks $items,
        private Transfer $transfer,
        private Colleagues $colleagues,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @return int the claim's document
     *
     * @throws Refused when the item is not an open one of a customer, or says less than it must
     */
    public function make(Actor $actor, ClaimRequest $request, Day $date): int
    {
        return $this->transaction->run(function () use ($actor, $request, $date): int {
            $item = $this->items->lock($actor, [$request->item])[$request->item];
            $this->check($actor, $item, $request);
            $written = $this->transfer->write(
                $actor,
                DocumentKind::Claim,
                $item,
                $request->amount,
                new TransferTarget($item->side, $item->accountId, $item->partyId, $item->dueDate),
                $date,
                $request->text,
                $request->kind->words(),
            );
            $claim = new Claim(
                $actor->companyId,
                $written->document->id(),
                $written->items[1]->id(),
                $item->id(),
                $request->kind,
                mb_substr(trim($request->text), 0, 255),
                $actor->userId,
                $this->clock->now(),
            );
            $claim->personId =
                '' === $request->person ? null : $this->colleagues->id($actor->companyId, $request->person);
            $claim->followUpOn = $request->followUpOn;
            $claim->writeOffAs = $request->writeOffAs;
            $claim->writeOffAccountId = $request->account;
            $claim->state = null === $request->writeOffAs ? ClaimState::Open : ClaimState::Awaiting;
            $this->entities->persist($claim);
            $this->entities->flush();
            $this->history->note(
                $actor,
                'document',
                $written->document->id(),
                null === $request->writeOffAs ? 'claimed' : 'write-off asked for',
                \sprintf(
                    '%s %s of %s, %s: %s',
                    Money::of($request->amount, $item->currency)->decimal(),
                    $item->currency,
                    $item->number,
                    $request->writeOffAs?->word() ?? $request->kind->words(),
                    trim($request->text),
                ),
            );

            return $written->document->id();
        });
    }

    private function check(Actor $actor, OpenItemRecord $item, ClaimRequest $request): void
    {
        if (Side::Receivables !== $item->side || 0 === $item->open) {
            throw Refused::because('item', \sprintf('%s is not an open item of a customer.', $item->number));
        }
        if ($item->open < 0 && null === $request->writeOffAs) {
            throw Refused::because('item', \sprintf('%s is a credit; only what is owed is claimed.', $item->number));
        }
        if (DocumentKind::Claim === $item->kind && null === $request->writeOffAs) {
            throw Refused::because('item', \sprintf('%s is a claim already.', $item->number));
        }
        $waits = $this->entities
            ->getRepository(Claim::class)
            ->findOneBy(['itemId' => $item->id(), 'state' => ClaimState::Awaiting]);
        if (null !== $waits) {
            throw Refused::because('item', \sprintf('%s awaits a decision already.', $item->number));
        }
        if ('' === trim($request->text)) {
            throw Refused::because(
                'text',
                'Say what it is about; whoever looks at it next reads it.',
                ProblemKind::Missing,
            );
        }
        if ('' !== $request->person && null === $this->colleagues->id($actor->companyId, $request->person)) {
            throw Refused::because('person', 'There is no such person in this company; choose one from the list.');
        }
    }
}
