<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Numbering;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** The one writer of journal entries. Nothing else inserts journal lines. Call inside a transaction. */
final readonly class LedgerWriter
{
    public function __construct(
        private EntityManagerInterface $entities,
        private Numbering $numbering,
        private PeriodGate $periods,
        private ClockInterface $clock,
        private Chart $chart,
    ) {
    }

    /**
     * @param list<Side> $sides party ledgers the entry belongs to; an entry with none may touch a control account only for a delivery or as a bypass
     *
     * @throws Refused when the period is locked or a control account would be bypassed unasked
     */
    public function write(
        Actor $actor,
        JournalDraft $draft,
        Day $day,
        string $text,
        array $sides,
        ?int $documentId = null,
        ?int $settlementId = null,
        ?int $reversesId = null,
        bool $bypass = false,
        ?int $deliveryId = null,
    ): JournalEntry {
        if ($draft->isEmpty()) {
            throw Refused::because('lines', 'There is nothing to post.');
        }
        $this->periods->mustBeOpen($actor->companyId, $day, $sides);
        if ([] === $sides && !$bypass && null === $deliveryId) {
            foreach ($draft->lines as $line) {
                if ($this->chart->isControl($actor->companyId, $line->account)) {
                    throw Refused::because('account', 'A control account takes entries from its party ledger only; a controller may allow a bypass entry.');
                }
            }
        }
        $sequence = $this->numbering->next($actor->companyId, 'JE-'.$day->year);
        $entry = new JournalEntry(
            $actor->companyId, \sprintf('JE-%02d-%05d', $day->year % 100, $sequence), $day->year, $sequence, $day, $draft->currency,
            mb_substr($text, 0, 255), $documentId, $settlementId, $deliveryId, $reversesId, $bypass, $actor->userId, $this->clock->now(),
        );
        $this->entities->persist($entry);
        foreach ($draft->lines as $k => $line) {
            $this->entities->persist(new JournalLine(
                $entry, $k + 1, $line->account, $day, $line->base, $line->amount, mb_substr($line->text, 0, 255), $line->party,
                $line->analysis->costCenter, $line->analysis->department, $line->analysis->project,
            ));
        }

        return $entry;
    }

    /** The draft of a stored entry, to reverse it. */
    public function draftOf(int $entryId): JournalDraft
    {
        $rows = $this->entities->getConnection()->fetchAllAssociative('SELECT l.*, e.currency FROM journal_line l JOIN journal_entry e ON e.id = l.entry_id WHERE l.entry_id = ? ORDER BY l.position', [$entryId]);
        $int = static fn (mixed $v): ?int => null === $v ? null : (int) $v;

        return JournalDraft::of((string) ($rows[0]['currency'] ?? ''), array_map(static fn (array $r): \Nelbix\Core\Ledger\DraftLine => new \Nelbix\Core\Ledger\DraftLine(
            (int) $r['account_id'], (int) $r['base'], (int) $r['amount'], (string) $r['text'],
            new \Nelbix\Core\Ledger\Analysis($int($r['cost_center_id']), $int($r['department_id']), $int($r['project_id'])), $int($r['party_id']),
        ), $rows));
    }
}
