<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Refused;

/** Undoes a settlement: its items open again, what it posted is reversed. Undoing twice is refused. */
final readonly class UndoSettlement
{
    public function __construct(
        private Transaction $transaction,
        private SettlementBook $book,
        private History $history,
        private \Doctrine\DBAL\Connection $db,
    ) {
    }

    /**
     * @param Day|null $on null takes the settlement's own day, or the first on which the periods are open
     * @param string $reason what the person said; it may be nothing
     *
     * @throws Refused
     */
    public function undo(Actor $actor, int $settlementId, ?Day $on = null, string $reason = ''): Settlement
    {
        return $this->transaction->run(function () use ($actor, $settlementId, $on, $reason): Settlement {
            $reversal = $this->db->fetchOne(
                <<<'SQL'
                SELECT d.number
                FROM settlement s
                JOIN document d ON d.id = s.document_id
                WHERE s.id = ? AND s.company_id = ? AND d.reverses_id IS NOT NULL
                SQL
                ,
                [$settlementId, $actor->companyId],
            );
            if (false !== $reversal) {
                throw Refused::because(
                    '',
                    \sprintf(
                        'This settlement belongs to the reversal %s and stands with it; enter the document anew instead.',
                        $reversal,
                    ),
                );
            }
            $transfer = $this->db->fetchAssociative(
                <<<'SQL'
                SELECT d.number, d.kind
                FROM settlement s
                JOIN document d ON d.id = s.document_id
                WHERE s.id = ? AND s.company_id = ? AND d.reverses_id IS NULL
                SQL
                ,
                [$settlementId, $actor->companyId],
            );
            if (false !== $transfer && DocumentKind::from((string) $transfer['kind'])->settlesItself()) {
                throw Refused::because(
                    '',
                    \sprintf(
                        'This settlement belongs to %s and stands with it; reverse %s instead.',
                        $transfer['number'],
                        $transfer['number'],
                    ),
                );
            }
            $settlement = $this->book->undo($actor, $settlementId, $on);
            $said = 'dated '.$settlement->undoneOn?->long().('' === $reason ? '' : ': '.$reason);
            null === $settlement->documentId
                ? $this->history->note($actor, 'settlement', $settlementId, 'undone', $said)
                : $this->history->note($actor, 'document', $settlement->documentId, 'settlement undone', $said);

            return $settlement;
        });
    }
}
