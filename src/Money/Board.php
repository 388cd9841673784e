<?php

declare(strict_types=1);

namespace Nelbix\App\Money;

use Nelbix\App\Books\SettlementRequest;
use Nelbix\App\Parties\Party;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Placement\Idea;
use Nelbix\Core\Problem;

/**
 * The board as it stands: the party's items and what is placed on each. Amounts in minor units, positive; on a refund the rows are
 * seen from the other side.
 *
 * @phpstan-import-type ItemRow from \Nelbix\App\Books\OpenItemsQuery
 */
final readonly class Board
{
    /**
     * @param array<string, array{count: int, open: int}> $currencies what the party has open in each
     * @param list<ItemRow> $rows
     * @param array<int, OpenItem> $items
     * @param array<int, int> $placed gross, by item
     * @param array<int, int> $discount taken, by item
     * @param array<int, int> $letGo what is let go of an item, by item
     * @param array<int, int> $withheld for the tax office, by item
     * @param array<int, int> $offer discount that holds on the day, by item
     * @param array<int, int> $lapsed discount that lapsed before the day, by item
     * @param array<int, int> $withholdable most that the customer may withhold for its tax office, by item
     * @param array<int, ClaimRequest> $claims what is claimed of items, or asked to be let go, by item
     * @param list<string> $also codes of other customers whose items stand here too
     * @param array<int, int> $limits most that can be a small difference, by item
     * @param int $goneAlone what one person may let go alone, in the board's currency
     * @param BankSide|null $bank what the money does to the bank account; null without money
     * @param list<Idea> $ideas where the money could go; the last is oldest first
     * @param int $idea the idea that was just taken, counted from 1; 0 for none
     * @param int $proposed how many of the ideas are proposed; the others come only on the clerk's key
     * @param array<mixed> $form as it was typed, with the idea in it
     * @param list<Problem> $problems
     */
    public function __construct(
        public Side $side,
        public BoardMode $mode,
        public ?MoneyInput $input,
        public ?SettlementRequest $request,
        public ?Party $party,
        public string $currency,
        public array $currencies,
        public Day $date,
        public int $amount,
        public array $rows,
        public array $items,
        public array $placed,
        public array $discount,
        public array $letGo,
        public array $withheld,
        public array $offer,
        public array $limits,
        public array $lapsed,
        public array $withholdable,
        public array $claims,
        public array $also,
        public int $goneAlone,
        public ?BankSide $bank,
        public array $ideas,
        public int $idea,
        public int $proposed,
        public array $form,
        public array $problems,
    ) {
    }

    /** Why the item stands in the idea that was taken, else in the first that is proposed, in words; '' when it does not. */
    public function why(int $item): string
    {
        $idea = $this->ideas[max(0, $this->idea - 1)] ?? null;

        return null !== $idea && ($this->idea > 0 || $this->proposed > 0) && isset($idea->placed[$item])
            ? $idea->why->words()
            : '';
    }

    /**
     * Why nothing may be placed on a row, in few words; null when something may.
     *
     * @param ItemRow $row
     */
    public function kept(array $row): ?string
    {
        return BoardPlacing::kept($this->side, $row);
    }

    /** @return array<int, int> what an item stays short of when something is placed on it, by item; what is let go included */
    public function short(): array
    {
        $short = [];
        foreach ($this->rows as $row) {
            $rest = $row['open'] - ($this->placed[$row['id']] ?? 0) + ($this->letGo[$row['id']] ?? 0);
            if ($row['open'] > 0 && $rest > 0 && isset($this->placed[$row['id']])) {
                $short[$row['id']] = $rest;
            }
        }

        return $short;
    }

    /** What is left over is asked to be given back at once. */
    public function givesBack(): bool
    {
        return Side::Receivables === $this->side && 'refund' === ($this->form['kind'] ?? '');
    }

    /** Why it is given back, in the clerk's words; '' while they are missing. */
    public function givesBackWhy(): string
    {
        return \is_string($this->form['kind_reason'] ?? null)
            ? mb_substr(trim($this->form['kind_reason']), 0, 255)
            : '';
    }

    /** The request that a prepayment was asked for by, as it was chosen; '' for none. */
    public function askedFor(): string
    {
        $asked = $this->form['asked'] ?? '';

        return 'prepayment' === ($this->form['kind'] ?? '') && \is_string($asked) && ctype_digit($asked) ? $asked : '';
    }

    /** The line of a bank statement that this money is; '' for none. */
    public function bankLine(): string
    {
        $line = $this->form['line'] ?? '';

        return \is_string($line) && ctype_digit($line) && \strlen($line) < 10 ? $line : '';
    }

    /** What becomes of the money that is left over, in words. */
    public function restBecomes(): string
    {
        return match ($this->form['kind'] ?? '') {
            'prepayment' => 'is a prepayment',
            'refund' => Side::Receivables === $this->side ? 'is asked to be given back' : 'stays unapplied',
            'account', 'recovered' => null === $this->input?->restTo && [] === ($this->input->recovers ?? [])
                ? 'stays unapplied'
                : 'goes to the account that is named',
            default => true === $this->party?->nobody ? 'stands with the unidentified receipts' : 'stays unapplied',
        };
    }

    /** The money's rest was given a place by the clerk; unsaid, it stays unapplied. */
    public function restHasPlace(): bool
    {
        return \is_string($this->form['kind'] ?? null) && '' !== $this->form['kind'];
    }

    /** Money and credits that are used or could be: the left side of the beam. */
    public function money(): int
    {
        $credits = 0;
        foreach ($this->rows as $row) {
            $credits += $row['open'] < 0 ? $this->placed[$row['id']] ?? 0 : 0;
        }

        return $this->amount + $credits;
    }

    /** What money and credits are placed on, less discounts and what is let go: the right side of the beam. */
    public function owed(): int
    {
        $owed = 0;
        foreach ($this->rows as $row) {
            $id = $row['id'];
            $owed +=
                $row['open'] > 0
                    ? ($this->placed[$id] ?? 0) -
                        ($this->discount[$id] ?? 0) -
                        ($this->letGo[$id] ?? 0) -
                        ($this->withheld[$id] ?? 0)
                    : 0;
        }

        return $owed;
    }

    /** What rows that are paid whole would give up for another one: the discount that holds and is not taken. */
    public function gives(): int
    {
        $gives = 0;
        foreach ($this->rows as $row) {
            $whole = $row['open'] > 0 && ($this->placed[$row['id']] ?? 0) === $row['open'];
            $gives += $whole ? max(0, $this->offer[$row['id']] - ($this->discount[$row['id']] ?? 0)) : 0;
        }

        return $gives;
    }

    public function left(): int
    {
        return $this->money() - $this->owed();
    }
}
