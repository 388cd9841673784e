<?php

declare(strict_types=1);

namespace Nelbix\App\Import;

use Doctrine\DBAL\Connection;
use Nelbix\App\Books\LotOf;
use Nelbix\App\Books\ReverseDocument;
use Nelbix\App\Books\StandingSettlements;
use Nelbix\App\Books\UndoSettlement;
use Nelbix\App\Close\Journal\DecideManualEntry;
use Nelbix\App\Close\Journal\ManualState;
use Nelbix\App\Close\Journal\ReverseManualEntry;
use Nelbix\App\Goods\ReverseDelivery;
use Nelbix\App\Ledger\PeriodGate;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Refused;

/** Undoes what was posted of a file, through the use cases of the screens. Call inside a transaction. */
final readonly class TakeRecordsBack
{
    public function __construct(
        private Connection $db,
        private StandingSettlements $standing,
        private UndoSettlement $undoSettlement,
        private ReverseDocument $reverseDocument,
        private DecideManualEntry $decideEntry,
        private ReverseManualEntry $reverseEntry,
        private ReverseDelivery $reverseDelivery,
        private PeriodGate $periods,
    ) {
    }

    /**
     * @param list<int> $ids in the order in which they are undone
     * @param string $reason in the words of whoever takes them back
     *
     * @throws Refused naming what stands in the way
     */
    public function take(Actor $actor, LotOf $of, array $ids, string $reason): void
    {
        foreach ($ids as $id) {
            match ($of) {
                LotOf::Documents => $this->document($actor, $id, $reason),
                LotOf::Settlements => $this->undoSettlement->undo($actor, $id, null, $reason),
                LotOf::Entries => $this->entry($actor, $id, $reason),
                LotOf::Deliveries => $this->delivery($actor, $id, $reason),
            };
        }
    }

    /** Money first gives back what it settled. */
    private function document(Actor $actor, int $id, string $reason): void
    {
        foreach ($this->standing->of($id) as $settlement) {
            $this->undoSettlement->undo($actor, (int) $settlement['id'], null, $reason);
        }
        $this->reverseDocument->reverse($actor, $id, $reason);
    }

    /** One that waits for a decision still, or was sent back by whoever decides, is dropped. */
    private function entry(Actor $actor, int $id, string $reason): void
    {
        $entry = $this->db->fetchAssociative('SELECT state, entry_id, version FROM manual_entry WHERE id = ?', [$id]);
        if (false === $entry) {
            throw new \LogicException('An entry by hand is gone.');
        }
        ManualState::Posted->value === $entry['state']
            ? $this->reverseEntry->reverse($actor, (int) $entry['entry_id'], $reason)
            : $this->decideEntry->drop($actor, $id, (int) $entry['version']);
    }

    /** On its own day, or the first later one that is open. */
    private function delivery(Actor $actor, int $id, string $reason): void
    {
        $from = $this->db->fetchOne(
            <<<'SQL'
            SELECT GREATEST(MAX(g.delivered_on), COALESCE(MAX(l.last_undone_on), MAX(g.delivered_on)))
            FROM delivery g
            JOIN delivery_line l ON l.delivery_id = g.id
            WHERE g.id = ?
            SQL
            ,
            [$id],
        );
        $day = $this->periods->firstOpen($actor->companyId, Day::of((string) $from), []);
        $this->reverseDelivery->reverse($actor, $id, $day, $reason);
    }
}
