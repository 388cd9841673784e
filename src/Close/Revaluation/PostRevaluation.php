<?php

declare(strict_types=1);

namespace Nelbix\App\Close\Revaluation;

use Doctrine\DBAL\Connection;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Transaction;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\ProblemKind;
use Nelbix\Core\Refused;
use Psr\Clock\ClockInterface;

/**
 * Posts the revaluation of a day and takes it back on the next, in two entries. Done again for the same day it replaces the one that
 * stands; it can be undone without a new one.
 */
final readonly class PostRevaluation
{
    public function __construct(
        private Transaction $transaction,
        private Connection $db,
        private ProposeRevaluation $propose,
        private LedgerWriter $ledger,
        private History $history,
        private ClockInterface $clock,
    ) {
    }

    /**
     * @param string $seen digest of the page that was looked at
     *
     * @return int its id
     *
     * @throws Refused
     */
    public function post(Actor $actor, Day $asOf, string $seen): int
    {
        return $this->transaction->run(function () use ($actor, $asOf, $seen): int {
            // two who revalue the same day wait for each other
            $this->db->fetchOne(
                'SELECT id FROM period WHERE company_id = ? AND first_day <= ? AND last_day >= ? FOR UPDATE',
                [$actor->companyId, $asOf->iso(), $asOf->iso()],
            );
            $standing = $this->standing($actor, $asOf);
            $proposed = $this->propose->of($actor->companyId, $actor->baseCurrency, $asOf);
            if ([] !== $proposed->missing) {
                throw Refused::because(
                    'rates',
                    \sprintf(
                        'There is no rate of %s on or before %s; enter one, then revalue.',
                        implode(', ', $proposed->missing),
                        $asOf->long(),
                    ),
                    ProblemKind::Missing,
                );
            }
            if ($seen !== $proposed->digest()) {
                throw Refused::because(
                    '',
                    'Items or rates have changed since you looked; look again and post what stands there.',
                );
            }
            if ($proposed->entry->isEmpty()) {
                throw Refused::because(
                    'as_of',
                    \sprintf('Nothing differs on %s; there is nothing to post.', $asOf->long()),
                );
            }
            if (null !== $standing && $standing['digest'] === $seen) {
                throw Refused::because(
                    'as_of',
                    \sprintf('The revaluation of %s is posted already, and nothing has changed since.', $asOf->long()),
                    ProblemKind::Taken,
                );
            }
            if (null !== $standing) {
                $this->takeBack($actor, $standing, '');
            }
            $id = $this->keep($actor, $proposed);
            $source = Source::revaluation($id);
            $entries = $this->ledger->writeAll($actor, [
                new EntryOrder($proposed->entry, $asOf, 'Revaluation of '.$asOf->iso(), [], $source),
                new EntryOrder(
                    $proposed->entry->reversed(),
                    $asOf->plusDays(1),
                    'Revaluation of '.$asOf->iso().', taken back',
                    [],
                    $source,
                ),
            ]);
            $this->db->update(
                'revaluation',
                ['entry_id' => $entries[0]->id(), 'back_id' => $entries[1]->id()],
                ['id' => $id],
            );
            $this->history->note($actor, 'revaluation', $id, 'posted', 'as of '.$asOf->iso());

            return $id;
        });
    }

    /** @throws Refused */
    public function undo(Actor $actor, int $id, string $why): void
    {
        $this->transaction->run(function () use ($actor, $id, $why): void {
            if ('' === trim($why)) {
                throw Refused::because(
                    'why',
                    'Say why it is undone; the history keeps your words.',
                    ProblemKind::Missing,
                );
            }
            $row = $this->db->fetchAssociative(
                'SELECT * FROM revaluation WHERE id = ? AND company_id = ? AND live = 1 FOR UPDATE',
                [$id, $actor->companyId],
            );
            if (false === $row) {
                throw Refused::because(
                    '',
                    'There is no such revaluation, or it was undone already.',
                    ProblemKind::Unknown,
                );
            }
            $this->takeBack($actor, $row, mb_substr(trim($why), 0, 255));
        });
    }

    /** @return array<string, mixed>|null */
    private function standing(Actor $actor, Day $asOf): ?array
    {
        return $this->db->fetchAssociative(
            'SELECT * FROM revaluation WHERE company_id = ? AND as_of = ? AND live = 1 FOR UPDATE',
            [$actor->companyId, $asOf->iso()],
        ) ?:
            null;
    }

    /** @param array<string, mixed> $row */
    private function takeBack(Actor $actor, array $row, string $why): void
    {
        $day = Day::of((string) $row['as_of']);
        $source = Source::revaluation((int) $row['id']);
        $orders = [];
        foreach (['entry_id' => $day, 'back_id' => $day->plusDays(1)] as $which => $on) {
            $entry = (int) $row[$which];
            $orders[] = new EntryOrder(
                $this->ledger->draftOf($entry)->reversed(),
                $on,
                'Revaluation of '.$day->iso().' undone',
                [],
                $source,
                $entry,
            );
        }
        $this->ledger->writeAll($actor, $orders);
        $this->db->update(
            'revaluation',
            [
                'live' => null,
                'undone_by_id' => $actor->userId,
                'undone_at' => $this->clock->now()->format('Y-m-d H:i:s'),
                'undone_why' => $why,
            ],
            ['id' => $row['id']],
        );
        $this->history->note($actor, 'revaluation', (int) $row['id'], '' === $why ? 'replaced' : 'undone', $why);
    }

    private function keep(Actor $actor, ProposedRevaluation $proposed): int
    {
        $this->db->insert('revaluation', [
            'company_id' => $actor->companyId,
            'as_of' => $proposed->asOf->iso(),
            'rates' => json_encode($proposed->rates, \JSON_THROW_ON_ERROR),
            'gain' => $proposed->gain(),
            'digest' => $proposed->digest(),
            'live' => 1,
            'undone_why' => '',
            'created_by_id' => $actor->userId,
            'created_at' => $this->clock->now()->format('Y-m-d H:i:s'),
        ]);
        $id = (int) $this->db->lastInsertId();
        foreach (array_chunk($proposed->items, 500) as $items) {
            $values = $with = [];
            foreach ($items as $i) {
                $values[] = '(?, ?, ?, ?, ?, ?, ?)';
                array_push($with, $id, $i->item, $i->open, $i->openBase, (string) $i->rate, $i->worth, $i->gain());
            }
            $this->db->executeStatement(
                'INSERT INTO revaluation_item (revaluation_id, item_id, open, open_base, rate, worth, gain) VALUES '.
                    implode(', ', $values),
                $with,
            );
        }

        return $id;
    }
}
