<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\App\Bank\BankAccounts;
use Nelbix\App\Bank\BankRow;
use Nelbix\App\Books\HeldItem;
use Nelbix\App\Books\ItemLocks;
use Nelbix\App\Ledger\LedgerWriter;
use Nelbix\App\Money\PostMoney;
use Nelbix\App\Platform\Actor;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DraftLine;
use Nelbix\Core\Ledger\JournalDraft;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Problem;
use Nelbix\Core\Refused;

/** What posting picked lines would book, all together, for the entry panel; and what speaks against one of them. */
final readonly class PreviewLines
{
    public function __construct(
        private PostMoney $postMoney,
        private LineAccounts $accounts,
        private ItemLocks $items,
        private BankAccounts $banks,
        private JoinedEntries $joined,
        private LedgerWriter $ledger,
    ) {
    }

    /**
     * @param list<array{line: array<string, mixed>, choice: Choice}> $picked
     *
     * @return array{draft: ?JournalDraft, joined: int, problems: array<int, string>} problems by line
     */
    public function of(Actor $actor, BankRow $bank, array $picked): array
    {
        $lines = $problems = [];
        $joined = 0;
        $ids = [];
        foreach ($picked as ['choice' => $choice]) {
            array_push($ids, ...array_column($choice->items, 0));
        }
        try {
            $held = [] === $ids ? [] : $this->items->held($actor, array_values(array_unique($ids)));
        } catch (Refused $e) {
            return ['draft' => null, 'joined' => 0, 'problems' => [0 => $e->getMessage()]];
        }
        $items = array_map(static fn (HeldItem $h): OpenItem => $h->item, $held);
        foreach ($picked as ['line' => $line, 'choice' => $choice]) {
            try {
                foreach ($this->drafts($actor, $bank, $line, $choice, $items) as $draft) {
                    array_push($lines, ...$draft->lines);
                }
                $joined += PartKind::Joined === $choice->kind ? 1 : 0;
            } catch (Refused $e) {
                $problems[(int) $line['id']] = implode(
                    ' ',
                    array_map(static fn (Problem $p): string => $p->message, $e->problems),
                );
            }
        }

        return [
            'draft' => [] === $lines ? null : JournalDraft::of($actor->baseCurrency, self::summed($lines)),
            'joined' => $joined,
            'problems' => $problems,
        ];
    }

    /**
     * @param array<string, mixed> $line
     * @param array<int, OpenItem> $items
     *
     * @return list<JournalDraft>
     */
    private function drafts(Actor $actor, BankRow $bank, array $line, Choice $choice, array $items): array
    {
        $day = Day::of((string) $line['day']);
        $text = (string) ('' === $line['text'] ? $line['party'] : $line['text']);
        switch ($choice->kind) {
            case PartKind::Joined:
                $off = $choice->amount - array_sum(array_column($choice->entries, 1));
                if (0 === $off) {
                    return [];
                }
                $row = LineAccounts::plain($choice->difference, $off);

                return [$this->accounts->draft($actor, $bank, $day, $off, [$row], $text)];
            case PartKind::Accounts:
                return [$this->accounts->draft($actor, $bank, $day, $choice->amount, $choice->parts, $text)];
            case PartKind::Transfer:
                $other =
                    $this->banks->find($actor->companyId, $choice->id) ??
                    throw Refused::because('bank', 'There is no such bank account.');

                return [$this->accounts->transfer($actor, $bank, $other, $day, $choice->amount, $text)];
            case PartKind::Bounce:
                return array_map(
                    fn (int $entry): JournalDraft => $this->ledger->draftOf($entry)->reversed(),
                    $this->joined->ofReceipt($actor, $choice->id),
                );
            default:
                $preview = $this->postMoney->preview(
                    $actor,
                    LineMoney::of($bank, $day, $text, (string) $line['bank_reference'], $choice, ''),
                    array_intersect_key($items, array_flip(array_column($choice->items, 0))),
                );

                return array_values(array_filter([$preview['money'], $preview['settlement']]));
        }
    }

    /**
     * Debits and credits of an account apart, as the entries will have them.
     *
     * @param list<DraftLine> $lines
     *
     * @return list<DraftLine>
     */
    private static function summed(array $lines): array
    {
        $sums = [];
        foreach ($lines as $l) {
            $key = $l->account.($l->base < 0 ? ' cr' : ' dr');
            $sums[$key] = new DraftLine($l->account, ($sums[$key]->base ?? 0) + $l->base, 0);
        }

        return array_values($sums);
    }
}
