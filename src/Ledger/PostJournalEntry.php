<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\DBAL\Connection;
use Nelbix\App\People\MayDo;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Permission;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;

/** Posts an entry by hand. A controller may let it bypass a party ledger; the tie-out then names it for ever. */
final readonly class PostJournalEntry
{
    public function __construct(
        private Transaction $transaction,
        private LedgerWriter $ledger,
        private History $history,
        private Connection $db,
        private MayDo $mayDo,
    ) {
    }

    /**
     * @param string|null $lookAlikeReason why it is not the one it looks like; null when nobody can be asked
     *
     * @return string its number; empty inside a use case that is not through yet
     *
     * @throws Refused when the period is locked, a control account is touched without a bypass, or it looks like one that is there
     */
    public function post(
        Actor $actor,
        JournalDraft $draft,
        Day $day,
        string $text,
        bool $bypass = false,
        ?string $lookAlikeReason = null,
    ): string {
        return (string) $this->write($actor, $draft, $day, $text, $bypass ? $text : null, $lookAlikeReason)->number;
    }

    /**
     * The same, for whoever goes on with the entry.
     *
     * @param string|null $bypassWhy why it bypasses a party ledger; null when it does not
     * @param int|null $allowedById the controller who gave their word for a bypass, when that is not who acts
     *
     * @throws Refused
     */
    public function write(
        Actor $actor,
        JournalDraft $draft,
        Day $day,
        string $text,
        ?string $bypassWhy = null,
        ?string $lookAlikeReason = null,
        ?int $allowedById = null,
    ): JournalEntry {
        return $this->transaction->run(function () use (
            $actor,
            $draft,
            $day,
            $text,
            $bypassWhy,
            $lookAlikeReason,
            $allowedById,
        ): JournalEntry {
            if (null !== $bypassWhy) {
                $this->mayDo->must(
                    new Actor($actor->companyId, $actor->baseCurrency, $allowedById ?? $actor->userId),
                    Permission::Control,
                    'An entry that bypasses a party ledger needs the word of a controller.',
                    'bypass',
                );
            }
            if ('' === $lookAlikeReason && null !== ($alike = $this->lookAlike($actor, $draft, $day, $text))) {
                throw Refused::because(
                    'look_alike_reason',
                    \sprintf('It looks like %s of the same day. Say why it is another one, or leave it out.', $alike),
                    ProblemKind::Asks,
                );
            }
            $entry = $this->ledger->write($actor, new EntryOrder($draft, $day, $text, [], bypass: null !== $bypassWhy));
            $this->history->note(
                $actor,
                'entry',
                $entry->id(),
                null !== $bypassWhy ? 'posted as a bypass entry' : 'posted',
                $bypassWhy ?? $text,
            );
            if (null !== $lookAlikeReason && '' !== $lookAlikeReason) {
                $this->history->note($actor, 'entry', $entry->id(), 'not the one it looks like', $lookAlikeReason);
            }

            return $entry;
        });
    }

    /** The number of an entry by hand that stands: same day, same text, the same amounts on the same accounts. */
    private function lookAlike(Actor $actor, JournalDraft $draft, Day $day, string $text): ?string
    {
        $lines = array_map(static fn (DraftLine $l): string => $l->account.' '.$l->base, $draft->lines);
        sort($lines);
        $found = $this->db->fetchOne(
            <<<'SQL'
            SELECT e.number
            FROM journal_entry e
            JOIN journal_line l ON l.entry_id = e.id
            LEFT JOIN journal_entry r ON r.reverses_id = e.id
            WHERE e.company_id = ? AND e.posting_date = ? AND e.text = ? AND e.source_kind IS NULL
                AND e.reverses_id IS NULL AND r.id IS NULL
            GROUP BY e.id, e.number
            HAVING GROUP_CONCAT(CONCAT(l.account_id, ' ', l.base) ORDER BY CONCAT(l.account_id, ' ', l.base) SEPARATOR ',') = ?
            LIMIT 1
            SQL
            ,
            [$actor->companyId, $day->iso(), $text, implode(',', $lines)],
        );

        return false === $found ? null : (string) ($found ?? 'an entry');
    }
}
