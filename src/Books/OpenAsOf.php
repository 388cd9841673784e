<?php

declare(strict_types=1);

namespace Nelbix\App\Books;

use Doctrine\DBAL\Connection;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;

/**
 * What was open on a day, in SQL: an item counts from its posting date, a settlement from its date, its undo from the undo's own
 * date. Whoever asks about a day asks here; item is i, the day :day. Source: rules.md, Settlements.
 */
final readonly class OpenAsOf
{
    /** Items that can have been open on the day: those posted by then, and open now or moved since. */
    public const COULD_BE = 'i.posting_date <= :day AND (i.open <> 0 OR i.last_moved_on > :day)';

    private const COUNTS = 's.settled_on <= :day AND (s.undone_on IS NULL OR s.undone_on > :day)';

    private function __construct(private bool $live)
    {
    }

    /** On or after the last movement what is stored is what was open; only the past has to be replayed. */
    public static function day(Connection $db, int $companyId, Side $side, Day $day): self
    {
        return new self(
            false ===
                $db->fetchOne(
                    'SELECT 1 FROM open_item WHERE company_id = ? AND side = ? AND last_moved_on > ? LIMIT 1',
                    [$companyId, $side->value, $day->iso()],
                ),
        );
    }

    /** As things stand. */
    public static function now(): self
    {
        return new self(true);
    }

    /** From the settlements, whatever the day. */
    public static function replayed(): self
    {
        return new self(false);
    }

    /** What an item had open; $field is empty for its own currency, _base for the base currency. */
    public function open(string $field = ''): string
    {
        return $this->live ? "i.open$field" : "(i.original$field - COALESCE(t.applied$field, 0))";
    }

    /** The join that open() needs; needs :company. */
    public function join(): string
    {
        return $this->live ? '' : 'LEFT JOIN '.self::taken('s.company_id = :company').' t ON t.item_id = i.id';
    }

    /** The same for a few items named by :items. */
    public function joinOfItems(): string
    {
        return $this->live ? '' : 'LEFT JOIN '.self::taken('l.item_id IN (:items)').' t ON t.item_id = i.id';
    }

    /** Which items stood open. */
    public function where(): string
    {
        return $this->live ? 'i.is_open = 1' : self::COULD_BE.' AND '.$this->open().' <> 0';
    }

    private static function taken(string $which): string
    {
        $counts = self::COUNTS;

        return <<<SQL
        (SELECT l.item_id, SUM(l.applied) AS applied, SUM(l.applied_base) AS applied_base
        FROM settlement s JOIN settlement_line l ON l.settlement_id = s.id
        WHERE $which AND $counts
        GROUP BY l.item_id)
        SQL;
    }
}
