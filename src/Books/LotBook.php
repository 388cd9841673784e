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
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** Opens, fills, releases and empties lots. Call inside a transaction. */
final readonly class LotBook
{
    public function __construct(
        private EntityManagerInterface $entities,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    public function open(Actor $actor, PostingLot $lot): void
    {
        $this->entities->persist($lot);
        $this->entities->flush();
        $this->history->note($actor, 'lot', $lot->id(), 'begun', Words::count($lot->records, $lot->holds->word()));
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
     * So many more records of the file are posted: what they became belongs to the lot, and waits.
     *
     * @param list<int> $made
     */
    public function add(PostingLot $lot, array $made, int $records): void
    {
        $db = $this->entities->getConnection();
        if (LotOf::Documents === $lot->holds) {
            $types = [ParameterType::INTEGER, ArrayParameterType::INTEGER];
            $db->executeStatement('UPDATE document SET lot_id = ? WHERE id IN (?)', [$lot->id(), $made], $types);
            $this->reserve($made, $lot->reservation());
        } elseif ([] !== $made) {
            $db->executeStatement(
                'INSERT INTO posting_lot_record (lot_id, record_id) VALUES '.
                    implode(', ', array_map(static fn (int $id): string => "({$lot->id()}, $id)", $made)),
            );
        }
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

    /** From now on it is emptied and nothing is added. */
    public function turnBack(Actor $actor, PostingLot $lot, string $reason): void
    {
        $lot->state = LotState::TakingBack;
        $lot->reason = mb_substr(trim($reason), 0, 255);
        $this->history->note($actor, 'lot', $lot->id(), 'to be taken back', $lot->reason);
        $this->entities->flush();
    }

    /**
     * Lets go of the latest of its records, which are to be taken back in the same transaction.
     *
     * @return list<int> the latest first; none when nothing is left, and the lot is over
     */
    public function letGo(Actor $actor, PostingLot $lot, int $most): array
    {
        $documents = LotOf::Documents === $lot->holds;
        $db = $this->entities->getConnection();
        $ids = array_map(
            'intval',
            $db->fetchFirstColumn(
                ($documents
                    ? "SELECT id FROM document WHERE lot_id = ? AND state = 'posted' ORDER BY id DESC LIMIT "
                    : 'SELECT record_id FROM posting_lot_record WHERE lot_id = ? AND taken_back = 0 '.
                        'ORDER BY record_id DESC LIMIT ').$most,
                [$lot->id()],
            ),
        );
        if ([] === $ids) {
            $this->end($actor, $lot, LotState::TakenBack);
        } elseif ($documents) {
            $this->reserve($ids, null);
        } else {
            $db->executeStatement(
                'UPDATE posting_lot_record SET taken_back = 1 WHERE lot_id = ? AND record_id IN (?)',
                [$lot->id(), $ids],
                [1 => ArrayParameterType::INTEGER],
            );
        }

        return $ids;
    }

    /** @param list<int> $documents whose items wait, or wait no more */
    private function reserve(array $documents, ?Reservation $by): void
    {
        $this->entities
            ->getConnection()
            ->executeStatement(
                'UPDATE open_item SET reserved_by_id = :by, reserved_as = :as WHERE document_id IN (:documents)',
                ['by' => $by?->id, 'as' => $by?->number, 'documents' => $documents],
                ['documents' => ArrayParameterType::INTEGER],
            );
    }

    private function end(Actor $actor, PostingLot $lot, LotState $state): void
    {
        $lot->state = $state;
        $lot->endedAt = $this->clock->now();
        $this->history->note(
            $actor,
            'lot',
            $lot->id(),
            $state->words(),
            Words::count($lot->posted, $lot->holds->word()),
        );
        $this->entities->flush();
    }
}
