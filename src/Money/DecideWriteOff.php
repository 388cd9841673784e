<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\SettlementBook;
use Nelbix\App\People\SomebodyElse;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\BooksDay;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Decides on what somebody asked to let go: approved, it is written off on the books' day; refused, it drops back to the item it came
 * from. By somebody else, up to their own limit, and on what the page showed.
 */
final readonly class DecideWriteOff
{
    public function __construct(
        private Transaction $transaction,
        private EntityManagerInterface $entities,
        private ItemLocks $items,
        private SettlementBook $book,
        private WriteOff $writeOff,
        private ReverseDocument $reverse,
        private SomebodyElse $somebodyElse,
        private BooksDay $booksDay,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param int $version of the claim on the page that the person looked at
     *
     * @throws Refused
     */
    public function decide(Actor $actor, int $claimId, int $version, bool $approve, string $why = ''): void
    {
        $this->transaction->run(function () use ($actor, $claimId, $version, $approve, $why): void {
            $claim = $this->entities->find(Claim::class, $claimId, LockMode::PESSIMISTIC_WRITE);
            if (null === $claim || $claim->companyId !== $actor->companyId || null === $claim->writeOffAs) {
                throw Refused::because('', 'There is no such request in this company.', ProblemKind::Unknown);
            }
            $this->entities->refresh($claim, LockMode::PESSIMISTIC_WRITE);
            if (ClaimState::Awaiting !== $claim->state || $claim->version !== $version) {
                throw Refused::because(
                    '',
                    'Somebody decided on it, or changed it, since this page was loaded; look at it as it stands now.',
                    ProblemKind::Taken,
                );
            }
            $this->somebodyElse->mustBe(
                $actor,
                'claim',
                $claimId,
                $claim->askedById,
                'You asked for this yourself; somebody else decides on it.',
            );
            if (!$approve && '' === trim($why)) {
                throw Refused::because('why', 'Say why not; whoever asked reads it.', ProblemKind::Missing);
            }
            $claim->state = $approve ? ClaimState::Approved : ClaimState::Refused;
            $claim->decidedById = $actor->userId;
            $claim->decidedAt = $this->clock->now();
            $claim->decidedWhy = mb_substr(trim($why), 0, 255);
            $this->entities->flush();
            if ($approve) {
                $this->writeOff($actor, $claim);
            } else {
                $this->reverse->reverse($actor, $claim->documentId, trim($why));
            }
            $this->history->note(
                $actor,
                'document',
                $claim->documentId,
                $approve ? 'write-off approved' : 'write-off refused',
                trim($why),
            );
        });
    }

    private function writeOff(Actor $actor, Claim $claim): void
    {
        \assert(null !== $claim->writeOffAs);
        $item = $this->items->held($actor, [$claim->itemId])[$claim->itemId]->item;
        if (0 === $item->open) {
            throw Refused::because('', \sprintf('%s is settled by now; there is nothing to write off.', $item->number));
        }
        $this->book->settle(
            $actor,
            $this->writeOff->request(
                [$item->id => $item],
                [$item->id => abs($item->open)],
                $claim->writeOffAs,
                $claim->writeOffAccountId,
                $this->booksDay->of($actor->companyId),
                $claim->text,
                $claim->askedById,
            ),
        );
    }
}
