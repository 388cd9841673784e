<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\ArrayParameterType;
use Doctrine\DBAL\LockMode;
use Doctrine\ORM\EntityManagerInterface;
use Doctrine\ORM\Query;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Refused;

/** Locks open items, always in order of their ids, so that those who want the same ones wait for each other and never in a circle. */
final readonly class ItemLocks
{
    public function __construct(private EntityManagerInterface $entities)
    {
    }

    /**
     * Locks items for this transaction and reads them fresh.
     *
     * @param list<int> $ids
     *
     * @return array<int, OpenItemRecord> by id
     *
     * @throws Refused when one does not exist in this company
     */
    public function lock(Actor $actor, array $ids): array
    {
        if ([] === $ids) {
            return [];
        }
        /** @var list<OpenItemRecord> $found */
        $found = $this->entities
            ->createQuery(
                'SELECT i FROM '.
                    OpenItemRecord::class.
                    ' i WHERE i.id IN (:ids) AND i.companyId = :company ORDER BY i.id',
            )
            ->setParameter('ids', array_values(array_unique($ids)), ArrayParameterType::INTEGER)
            ->setParameter('company', $actor->companyId)
            ->setLockMode(LockMode::PESSIMISTIC_WRITE)
            ->setHint(Query::HINT_REFRESH, true)
            ->getResult();
        $items = [];
        foreach ($found as $item) {
            $items[$item->id()] = $item;
        }
        if (\count($items) !== \count(array_unique($ids))) {
            throw Refused::because('items', 'An item was not found in this company; load the page anew.');
        }

        return $items;
    }

    /**
     * Locks items for this transaction in order of their ids, without reading them.
     *
     * @param list<int> $ids
     */
    public function hold(array $ids): void
    {
        $ids = array_values(array_unique($ids));
        sort($ids);
        foreach (array_chunk($ids, 1000) as $chunk) {
            $this->entities
                ->getConnection()
                ->fetchOne(
                    'SELECT COUNT(*) FROM (SELECT id FROM open_item WHERE id IN ('.
                        implode(',', $chunk).
                        ') ORDER BY id FOR UPDATE) held',
                );
        }
    }

    /**
     * Locks items in order of id and reads them as they are now.
     *
     * @param list<int> $ids
     *
     * @return array<int, HeldItem> by id
     *
     * @throws Refused when one does not exist in this company
     */
    public function held(Actor $actor, array $ids): array
    {
        $items = [];
        foreach ($this->locked($actor, $ids) as $r) {
            $items[(int) $r['id']] = new HeldItem(
                StoredItem::of($r, Side::from((string) $r['side'])),
                null === $r['reserved_by_id']
                    ? null
                    : new Reservation((int) $r['reserved_by_id'], (string) $r['reserved_as']),
            );
        }

        return $items;
    }

    /**
     * The same as rows, one at a time, however many there are.
     *
     * @param list<int> $ids
     *
     * @return \Generator<int, array<string, mixed>>
     *
     * @throws Refused when one does not exist in this company
     */
    public function locked(Actor $actor, array $ids): \Generator
    {
        $ids = array_values(array_unique($ids));
        sort($ids);
        $found = 0;
        foreach (array_chunk($ids, 1000) as $chunk) {
            foreach (
                $this->entities->getConnection()->iterateAssociative(
                    <<<'SQL'
                    SELECT id, side, party_id, kind, number, account_id, currency, original, original_base, open, open_base,
                        posting_date, due_date, document_date, reserved_by_id, reserved_as
                    FROM open_item
                    WHERE company_id = ? AND id IN (
                    SQL
                    .
                        implode(',', $chunk).
                        ') ORDER BY id FOR UPDATE',
                    [$actor->companyId],
                ) as $r
            ) {
                ++$found;
                yield $r;
            }
        }
        if ($found !== \count($ids)) {
            throw Refused::because('items', 'An item was not found in this company; load the page anew.');
        }
    }

    /**
     * Reserves items that are locked, many a statement. Call locked() before.
     *
     * @param list<int> $ids
     */
    public function reserve(array $ids, Reservation $by): void
    {
        sort($ids);
        foreach (array_chunk($ids, 1000) as $chunk) {
            $this->entities
                ->getConnection()
                ->executeStatement(
                    'UPDATE open_item SET reserved_by_id = ?, reserved_as = ? WHERE id IN ('.
                        implode(',', $chunk).
                        ')',
                    [$by->id, $by->number],
                );
        }
    }

    /**
     * The day of the latest undo or event of items: nothing that touches one of them is dated before, so that what was open on
     * every past day stays between zero and the original. Source: rules.md, Journal entries.
     *
     * @param list<int> $itemIds
     *
     * @return array<int, Day> by item, of those that were opened again
     */
    public function lastUndone(array $itemIds): array
    {
        $days = [];
        foreach (array_chunk($itemIds, 1000) as $ids) {
            $rows = $this->entities->getConnection()->fetchAllKeyValue(
                <<<'SQL'
                SELECT l.item_id, MAX(s.undone_on)
                FROM settlement_line l
                JOIN settlement s ON s.id = l.settlement_id
                WHERE l.item_id IN (?) AND s.undone_on IS NOT NULL
                GROUP BY l.item_id
                SQL
                ,
                [$ids],
                [ArrayParameterType::INTEGER],
            );
            foreach ($rows as $item => $day) {
                $days[(int) $item] = Day::of((string) $day);
            }
        }

        return $days;
    }
}
