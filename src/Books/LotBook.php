<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\LockMode;
use Doctrine\DBAL\ParameterType;
use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Words;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Opens, fills, releases and gives back lots of documents. Call inside a transaction. */
final readonly class LotBook
{
    public function __construct(
        private EntityManagerInterface $entities,
        private ReverseDocument $reverse,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param string $kind of file
     * @param int $takenId what says that the file was taken over
     */
    public function open(
        Actor $actor,
        Side $side,
        string $kind,
        string $name,
        int $fileId,
        int $takenId,
        int $records,
    ): PostingLot {
        $lot = new PostingLot(
            $actor->companyId,
            $side,
            $kind,
            mb_substr($name, 0, 200),
            $fileId,
            $takenId,
            $records,
            $actor->userId,
            $this->clock->now(),
        );
        $this->entities->persist($lot);
        $this->entities->flush();
        $this->history->note($actor, 'lot', $lot->id(), 'begun', Words::count($records, 'document'));

        return $lot;
    }

    /**
     * The lot under its lock.
     *
     * @throws Refused when there is none in this company, or it stands otherwise
     */
    public function locked(Actor $actor, int $id, LotState ...$states): PostingLot
    {
        $lot = $this->entities->find(PostingLot::class, $id, LockMode::PESSIMISTIC_WRITE);
        if (null === $lot || $lot->companyId !== $actor->companyId) {
            throw Refused::because('', 'There is no such import in this company.', ProblemKind::Unknown);
        }
        $this->entities->refresh($lot, LockMode::PESSIMISTIC_WRITE);
        if (!\in_array($lot->state, $states, true)) {
            throw Refused::because(
                '',
                \sprintf('%s is %s; load the page anew.', $lot->name, $lot->state->words()),
                ProblemKind::Taken,
            );
        }

        return $lot;
    }

    /**
     * So many more records are posted: their documents belong to the lot, their items wait.
     *
     * @param list<int> $documents
     */
    public function add(PostingLot $lot, array $documents, int $records): void
    {
        $db = $this->entities->getConnection();
        $types = [ParameterType::INTEGER, ArrayParameterType::INTEGER];
        $db->executeStatement('UPDATE document SET lot_id = ? WHERE id IN (?)', [$lot->id(), $documents], $types);
        $db->executeStatement(
            'UPDATE open_item SET reserved_by_id = :by, reserved_as = :as WHERE document_id IN (:documents)',
            ['by' => $lot->reservation()->id, 'as' => $lot->reservation()->number, 'documents' => $documents],
            ['documents' => ArrayParameterType::INTEGER],
        );
        $lot->posted += $records;
        $this->entities->flush();
    }

    /** All of it is there: everything is free at once. */
    public function release(Actor $actor, PostingLot $lot): void
    {
        $this->entities
            ->getConnection()
            ->executeStatement(
                'UPDATE open_item SET reserved_by_id = NULL, reserved_as = NULL WHERE reserved_by_id = ?',
                [$lot->reservation()->id],
            );
        $this->end($actor, $lot, LotState::Released);
    }

    /** From now on it is given back and nothing is added. */
    public function turnBack(Actor $actor, PostingLot $lot, string $reason): void
    {
        $lot->state = LotState::TakingBack;
        $lot->reason = mb_substr(trim($reason), 0, 255);
        $this->history->note($actor, 'lot', $lot->id(), 'to be taken back', $lot->reason);
        $this->entities->flush();
    }

    /**
     * Reverses the latest of its documents.
     *
     * @return int how many; 0 when none is left, and the lot is over
     *
     * @throws Refused when one cannot be reversed now
     */
    public function giveBack(Actor $actor, PostingLot $lot, int $most): int
    {
        $db = $this->entities->getConnection();
        $ids = array_map(
            'intval',
            $db->fetchFirstColumn(
                "SELECT id FROM document WHERE lot_id = ? AND state = 'posted' ORDER BY id DESC LIMIT ".$most,
                [$lot->id()],
            ),
        );
        if ([] === $ids) {
            $this->end($actor, $lot, LotState::TakenBack);

            return 0;
        }
        $db->executeStatement(
            'UPDATE open_item SET reserved_by_id = NULL, reserved_as = NULL WHERE document_id IN (?)',
            [$ids],
            [ArrayParameterType::INTEGER],
        );
        foreach ($ids as $id) {
            $this->reverse->reverse($actor, $id, $lot->reason);
        }

        return \count($ids);
    }

    private function end(Actor $actor, PostingLot $lot, LotState $state): void
    {
        $lot->state = $state;
        $lot->endedAt = $this->clock->now();
        $this->history->note($actor, 'lot', $lot->id(), $state->words(), Words::count($lot->posted, 'document'));
        $this->entities->flush();
    }
}
