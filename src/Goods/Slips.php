<?php

declare(strict_types=1);

namespace Nelbix\App\Goods;

use Doctrine\ORM\EntityManagerInterface;
use Nelbix\App\Ledger\EntryOrder;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Ledger\Source;
use Nelbix\App\Platform\Actor;
use Nelbix\App\Platform\Bulk;
use Nelbix\App\Platform\History;
use Nelbix\App\Platform\Numbering;
use Nelbix\App\Platform\StoresNumbers;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\JournalDraft;

/** Keeps slips: their number, their entry, their line in the history; and undoes them with all that they moved. Inside a transaction. */
final readonly class Slips implements StoresNumbers
{
    public function __construct(
        private EntityManagerInterface $entities,
        private GoodsBook $goods,
        private AwaitedBook $awaited,
        private LedgerWriter $ledger,
        private Numbering $numbering,
        private History $history,
        private Bulk $bulk,
    ) {
    }

    /** Gives the slip its id, so that what it moves can name it. */
    public function begin(GoodsSlip $slip): GoodsSlip
    {
        $this->entities->persist($slip);
        $this->entities->flush();

        return $slip;
    }

    /** Number, entry and history of a slip whose moves are written. */
    public function post(Actor $actor, GoodsSlip $slip, JournalDraft $entry): void
    {
        $this->numbering->announce(
            $actor->companyId,
            'GS',
            $slip->movedOn,
            $slip,
            static function (string $number) use ($slip): void {
                $slip->number = $number;
            },
            $this,
        );
        if (!$entry->isEmpty()) {
            $this->ledger->write(
                $actor,
                new EntryOrder(
                    $entry,
                    $slip->movedOn,
                    static fn (): string => trim($slip->number.' '.$slip->reason),
                    [],
                    source: Source::goodsSlip($slip->id()),
                ),
            );
        }
        $this->history->note($actor, 'goods_slip', $slip->id(), $slip->kind->value, $slip->reason);
    }

    /** What it moved is where it was before, from the day on; its entry is reversed. */
    public function undo(Actor $actor, GoodsSlip $slip, Day $day, string $why): void
    {
        $slip->undoneOn = $day;
        $slip->undoneWhy = mb_substr(trim($why), 0, 255);
        $this->entities->flush();
        $this->goods->giveBack($actor, $day, null, $slip->id());
        $this->awaited->giveBack($actor, $slip->id(), $day);
        if ($this->hasEntry($slip)) {
            $this->ledger->reverseOf($actor, Source::goodsSlip($slip->id()), $day, $slip->number.' undone');
        }
        $this->history->note($actor, 'goods_slip', $slip->id(), 'undone', $slip->undoneWhy);
    }

    public function storeNumbers(array $records): void
    {
        $numbers = [];
        foreach ($records as $slip) {
            \assert($slip instanceof GoodsSlip);
            $numbers[$slip->id()] = ['number' => $slip->number];
        }
        $this->bulk->update('goods_slip', $numbers);
    }

    private function hasEntry(GoodsSlip $slip): bool
    {
        return false !==
            $this->entities
                ->getConnection()
                ->fetchOne('SELECT 1 FROM journal_entry WHERE source_kind = ? AND source_id = ? LIMIT 1', [
                    Source::goodsSlip($slip->id())->kind->value,
                    $slip->id(),
                ]);
    }
}
