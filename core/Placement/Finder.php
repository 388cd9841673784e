<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

use Nelbix\Core\Calendar\Day;

/**
 * Finds places for the lines of a bank account: own checks, references, movements of equal amount, open items, rules, in this order.
 * Of the first kind that has any, a sole one that nothing speaks against may be marked to go; two that fit equally are shown and none
 * is. Built once for all lines, so that what two lines want is given to neither. Source: rules.md, Bank statements.
 */
final class Finder
{
    /** A payment, receipt or slip shows on the statement within so many days. */
    public const DAYS = 10;

    /** What a bank on the way keeps is at most so many percent. */
    private const NEARLY = 5;

    /** More than this is no help to a clerk. */
    private const MOST = 6;

    /** @var array<string, list<Movement>> by number of the check */
    private array $byCheck = [];

    /** @var array<int, list<Movement>> by amount */
    private array $byAmount = [];

    private readonly MovementNames $names;

    /** @var array<string, list<array{Movement, string}>> by the first word of its party's name, with the name */
    private array $byParty = [];

    private readonly MovementNames $receipts;

    /**
     * @param list<Movement> $movements of this account, not on a statement yet
     * @param OpenItemFinder $items what is open on either side
     * @param list<ReadingRule> $rules in their order
     * @param array<string, int> $ownAccounts the company's other bank accounts by their plain number
     * @param list<Movement> $receipts that stand, on a statement or not: those that may bounce
     */
    public function __construct(
        array $movements,
        private readonly OpenItemFinder $items,
        private readonly array $rules = [],
        private readonly array $ownAccounts = [],
        array $receipts = [],
    ) {
        foreach ($movements as $m) {
            if ('' !== $m->check) {
                $this->byCheck[$m->check][] = $m;
            }
            $this->byAmount[$m->amount][] = $m;
            $name = OpenItemFinder::spelled($m->party);
            if (0 !== $m->document && \strlen($name) > 4) {
                $this->byParty[explode(' ', $name)[0]][] = [$m, $name];
            }
        }
        $this->names = new MovementNames($movements);
        $this->receipts = new MovementNames($receipts);
    }

    /**
     * @param list<BankLine> $lines
     *
     * @return array<int, Found> by line
     */
    public function of(array $lines): array
    {
        $found = $wanted = [];
        foreach ($lines as $line) {
            $finds = $this->finds($line);
            $found[$line->id] = $finds;
            if ($finds->sure) {
                foreach ($finds->finds[0]->takes() as $what) {
                    $wanted[$what][] = $line;
                }
            }
        }
        foreach ($wanted as $rivals) {
            foreach (\count($rivals) > 1 ? $rivals : [] as $line) {
                $other = $rivals[0] === $line ? $rivals[1] : $rivals[0];
                $found[$line->id] = $found[$line->id]->contested($other);
            }
        }

        return $found;
    }

    private function finds(BankLine $line): Found
    {
        $stages = [
            fn (): array => $this->checks($line),
            fn (): array => $this->named($line),
            fn (): array => $this->bounced($line),
            fn (): array => $this->equal($line),
            fn (): array => $this->nearly($line),
            fn (): array => $this->items->finds($line),
            fn (): array => $this->transfer($line),
            fn (): array => $this->ruled($line),
        ];
        $finds = [];
        $sure = null;
        foreach ($stages as $stage) {
            $more = $stage();
            if ([] === $more) {
                continue;
            }
            // the first kind that has any decides; what follows is there for the clerk who looks on
            $sure ??= 1 === \count($more) && $more[0]->exact;
            array_push($finds, ...$more);
            if ($sure) {
                break;
            }
        }

        return new Found(\array_slice(self::once($finds), 0, self::MOST), true === $sure);
    }

    /** @return list<Find> own checks under the number on the line */
    private function checks(BankLine $line): array
    {
        return '' === $line->check
            ? []
            : array_map(
                static fn (Movement $m): Find => self::recorded(
                    FindKind::Check,
                    $line,
                    $m,
                    \sprintf('check %s', $m->check),
                ),
                $this->byCheck[ltrim($line->check, '0')] ?? [],
            );
    }

    /** @return list<Find> what is called in the text or the reference by its own name */
    private function named(BankLine $line): array
    {
        $finds = [];
        foreach ($this->names->in($line) as [$m, $name]) {
            if (($m->amount <=> 0) === ($line->amount <=> 0)) {
                $finds[] = self::recorded(FindKind::Reference, $line, $m, \sprintf('its text names %s', $name));
            }
        }
        // of several that are named the one that comes to the amount is meant
        $exact = array_values(array_filter($finds, static fn (Find $f): bool => $f->exact));

        return [] === $exact ? $finds : $exact;
    }

    /** @return list<Find> receipts that the bank takes back: named, and over the same amount */
    private function bounced(BankLine $line): array
    {
        $finds = [];
        foreach ($line->amount < 0 ? $this->receipts->in($line) : [] as [$m]) {
            if ($m->amount === -$line->amount && !$line->day->isBefore($m->day)) {
                $finds[] = new Find(
                    FindKind::Bounce,
                    \sprintf('%s came back', $m->number),
                    $line->amount,
                    false,
                    id: $m->document,
                );
            }
        }

        return $finds;
    }

    /** @return list<Find> */
    private function equal(BankLine $line): array
    {
        $finds = [];
        foreach ($this->byAmount[$line->amount] ?? [] as $m) {
            $days = abs($m->day->daysUntil($line->day));
            if ($days <= self::DAYS) {
                $finds[\sprintf('%02d %d', $days, $m->entry)] = self::recorded(
                    FindKind::Movement,
                    $line,
                    $m,
                    \sprintf('%s over the same amount, %s', $m->number, self::apart($m->day, $line->day)),
                );
            }
        }
        ksort($finds);

        return array_values($finds);
    }

    /** @return list<Find> recorded for the party that the line names, with nearly the amount: what is missing may be a fee */
    private function nearly(BankLine $line): array
    {
        $words = ' '.OpenItemFinder::spelled($line->party.' '.$line->text).' ';
        $finds = [];
        foreach (array_unique(explode(' ', trim($words))) as $word) {
            foreach ($this->byParty[$word] ?? [] as [$m, $name]) {
                if (
                    str_contains($words, ' '.$name.' ')
                    && ($m->amount <=> 0) === ($line->amount <=> 0)
                    && abs($m->day->daysUntil($line->day)) <= self::DAYS
                    && 100 * abs($m->amount - $line->amount) <= self::NEARLY * abs($m->amount)
                ) {
                    $finds[] = self::recorded(
                        FindKind::Movement,
                        $line,
                        $m,
                        \sprintf('%s of the same party', $m->number),
                    );
                }
            }
        }

        return $finds;
    }

    /** @return list<Find> */
    private function transfer(BankLine $line): array
    {
        $bank = $this->ownAccounts[BankLine::plain($line->account)] ?? null;

        return null === $bank || '' === $line->account
            ? []
            : [new Find(FindKind::Transfer, 'the other account is ours', $line->amount, true, id: $bank)];
    }

    /** @return list<Find> the first rule that fits */
    private function ruled(BankLine $line): array
    {
        foreach ($this->rules as $rule) {
            if ($rule->fits($line)) {
                return [
                    new Find(FindKind::Rule, \sprintf('rule “%s”', $rule->name), $line->amount, true, id: $rule->id),
                ];
            }
        }

        return [];
    }

    private static function recorded(FindKind $kind, BankLine $line, Movement $m, string $why): Find
    {
        $off = $line->amount - $m->amount;
        $same = ($m->amount <=> 0) === ($line->amount <=> 0);

        return new Find(
            $kind,
            0 === $off ? $why : $why.', another amount',
            0 === $off || $same ? $line->amount : 0,
            0 === $off,
            $m->entry,
            $off,
        );
    }

    private static function apart(Day $recorded, Day $booked): string
    {
        $days = $recorded->daysUntil($booked);

        return match (true) {
            0 === $days => 'the same day',
            $days > 0 => \sprintf('%d %s before', $days, 1 === $days ? 'day' : 'days'),
            default => \sprintf('%d %s after', -$days, -1 === $days ? 'day' : 'days'),
        };
    }

    /**
     * @param list<Find> $finds
     *
     * @return list<Find> what was found for two reasons stands there for the first
     */
    private static function once(array $finds): array
    {
        $seen = $kept = [];
        foreach ($finds as $find) {
            $key = implode(',', $find->takes());
            if ('' === $key || !isset($seen[$key])) {
                $kept[] = $find;
                $seen[$key] = true;
            }
        }

        return $kept;
    }
}
