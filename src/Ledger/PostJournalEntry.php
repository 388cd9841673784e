<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Refused;

/** Posts an entry by hand. A controller may let it bypass a party ledger; the tie-out then names it for ever. */
final readonly class PostJournalEntry
{
    public function __construct(
        private Transaction $transaction,
        private LedgerWriter $ledger,
        private History $history,
    ) {
    }

    /**
     * @return string its number; empty inside a use case that is not through yet
     *
     * @throws Refused when the period is locked, or a control account is touched without a bypass
     */
    public function post(Actor $actor, JournalDraft $draft, Day $day, string $text, bool $bypass = false): string
    {
        $entry = $this->transaction->run(function () use ($actor, $draft, $day, $text, $bypass): JournalEntry {
            $entry = $this->ledger->write($actor, new EntryOrder($draft, $day, $text, [], bypass: $bypass));
            $this->history->note($actor, 'entry', $entry->id(), $bypass ? 'posted as a bypass entry' : 'posted', $text);

            return $entry;
        });

        return (string) $entry->number;
    }
}
