<?php

declare(strict_types=1);

namespace Nelbix\App\Ledger;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\StoresNumbers;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/** The one writer of journal entries. Nothing else inserts journal lines. Call inside a transaction. */
final readonly class LedgerWriter implements StoresNumbers
{
    public function __construct(
        private EntityManagerInterface $entities,
        private Numbering $numbering,
        private PeriodGate $periods,
        private SignedOffDays $signedOff,
        private ClockInterface $clock,
        private Chart $chart,
        private Bulk $bulk,
    ) {
    }

    /** @throws Refused when the period is locked or a control account would be bypassed unasked */
    public function write(Actor $actor, EntryOrder $order): JournalEntry
    {
        return $this->writeAll($actor, [$order])[0];
    }

    /**
     * Writes many at once; they are numbered in their order, last before the commit.
     *
     * @template T of list<EntryOrder>
     *
     * @param T $orders
     *
     * @return (T is non-empty-list ? non-empty-list<JournalEntry> : list<JournalEntry>)
     *
     * @throws Refused
     */
    public function writeAll(Actor $actor, array $orders): array
    {
        $open = [];
        $entries = [];
        $now = $this->clock->now();
        foreach ($orders as $order) {
            $this->check($actor, $order, $open);
            $year = $this->numbering->yearOf($actor->companyId, $order->day);
            $entry = $entries[] = new JournalEntry(
                $actor->companyId,
                $year,
                $order->day,
                $order->draft->currency,
                $order->source?->kind,
                $order->source?->id,
                $order->reversesId,
                $order->bypass,
                $actor->userId,
                $now,
            );
            $this->numbering->announceSequence(
                $actor->companyId,
                'JE-'.$year,
                $entry,
                static function (int $n) use ($entry, $order, $year): void {
                    $entry->sequence = $n;
                    $entry->number = \sprintf('JE-%02d-%05d', $year % 100, $n);
                    $entry->text = mb_substr(\is_string($order->text) ? $order->text : ($order->text)(), 0, 255);
                },
                $this,
            );
        }
        $this->bulk->insert($entries);
        $lines = [];
        foreach ($orders as $n => $order) {
            foreach ($order->draft->lines as $k => $line) {
                $lines[] = new JournalLine(
                    $entries[$n],
                    $k + 1,
                    $line->account,
                    $order->day,
                    $line->base,
                    $line->amount,
                    mb_substr($line->text, 0, 255),
                    $line->party,
                    $line->analysis->costCenter,
                    $line->analysis->department,
                    $line->analysis->project,
                );
            }
        }
        $this->bulk->insert($lines);

        return $entries;
    }

    public function storeNumbers(array $records): void
    {
        $rows = [];
        foreach ($records as $entry) {
            \assert($entry instanceof JournalEntry);
            $rows[$entry->id()] = [
                'number' => $entry->number,
                'sequence' => $entry->sequence,
                'text' => $entry->text,
            ];
        }
        $this->bulk->update('journal_entry', $rows);
    }

    /**
     * @param array<string, true> $open periods that were found open already
     *
     * @throws Refused
     */
    private function check(Actor $actor, EntryOrder $order, array &$open): void
    {
        if ($order->draft->isEmpty()) {
            throw Refused::because('lines', 'There is nothing to post.');
        }
        $key = $order->day->iso().implode('', array_map(static fn (Side $s): string => $s->value, $order->sides));
        if (!isset($open[$key])) {
            $this->periods->mustBeOpen($actor->companyId, $order->day, $order->sides);
            $this->numbering->before(
                \sprintf('period %d %s', $actor->companyId, $key),
                fn () => $this->periods->hold($actor->companyId, $order->day, $order->sides),
            );
            $open[$key] = true;
        }
        if ([] === $order->sides) {
            // what belongs to a party ledger is looked at with its period
            $this->signedOff->mustBeFree(
                $actor->companyId,
                $order->day,
                array_values(
                    array_filter(
                        array_map(static fn (DraftLine $l): int => $l->account, $order->draft->lines),
                        fn (int $account): bool => $this->chart->isControl($actor->companyId, $account),
                    ),
                ),
            );
        }
        if ([] !== $order->sides || $order->bypass || true === $order->source?->mayTouchControl()) {
            return;
        }
        foreach ($order->draft->lines as $line) {
            if ($this->chart->isControl($actor->companyId, $line->account)) {
                throw Refused::because(
                    'account',
                    'A control account takes entries from its party ledger only; a controller may allow a bypass entry.',
                );
            }
        }
    }

    /**
     * Reverses the one entry of a record that has no items, such as a delivery or a deposit slip.
     *
     * @throws Refused when the period is locked
     */
    public function reverseOf(Actor $actor, Source $source, Day $day, string $text): JournalEntry
    {
        $entry = (int) $this->entities
            ->getConnection()
            ->fetchOne(
                'SELECT MIN(id) FROM journal_entry WHERE source_kind = ? AND source_id = ? AND reverses_id IS NULL',
                [$source->kind->value, $source->id],
            );

        return $this->write(
            $actor,
            new EntryOrder($this->draftOf($entry)->reversed(), $day, $text, [], $source, $entry),
        );
    }

    /** The draft of a stored entry, to reverse it. */
    public function draftOf(int $entryId): JournalDraft
    {
        $rows = $this->entities->getConnection()->fetchAllAssociative(
            <<<'SQL'
            SELECT l.*, e.currency
            FROM journal_line l
            JOIN journal_entry e ON e.id = l.entry_id
            WHERE l.entry_id = ?
            ORDER BY l.position
            SQL
            ,
            [$entryId],
        );
        $int = static fn (mixed $v): ?int => null === $v ? null : (int) $v;

        return JournalDraft::of(
            (string) ($rows[0]['currency'] ?? ''),
            array_map(
                static fn (array $r): DraftLine => new DraftLine(
                    (int) $r['account_id'],
                    (int) $r['base'],
                    (int) $r['amount'],
                    (string) $r['text'],
                    new \Nelbix\Core\Ledger\Analysis(
                        $int($r['cost_center_id']),
                        $int($r['department_id']),
                        $int($r['project_id']),
                    ),
                    $int($r['party_id']),
                ),
                $rows,
            ),
        );
    }
}
