<?php

declare(strict_types=1);

namespace Nelbix\Core\Placement;

use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;

/**
 * Finds the open items that a line of a statement may settle: by what its text names, by its structured reference, by the account or
 * the name of the other side, else by its amount alone. Money that came in looks at what customers owe, money that went out at what
 * vendors are owed. How it is placed on them is proposed as for a receipt. Source: rules.md, Proposing where a receipt goes.
 */
final class OpenItemFinder
{
    /** A name of fewer letters says nothing. */
    private const SHORTEST_NAME = 5;

    /** @var array<string, array<int, list<OpenItem>>> by side and party */
    private array $ofParty = [];

    /** @var array<string, array<string, list<array{OpenItem, string}>>> by side and last digits, with the name that has them */
    private array $byDigits = [];

    /** @var array<string, array<int, list<OpenItem>>> by side and what settling all of it takes, with its discounts or without */
    private array $byAmount = [];

    /** @var array<string, array<string, int>> by side and plain account */
    private array $accounts = [];

    /** @var array<string, array<string, array<int, string>>> by side and first word of the name: names by party */
    private array $names = [];

    /**
     * @param list<OpenItem> $items of both sides, with their discounts
     * @param string $currency of the bank account
     * @param int $mostCharge what banks on the way may have kept of a receipt, minor units; 0 for nothing
     * @param array<int, list<string>> $theirNumbers what the other side calls an item's document, by item
     * @param list<array{side: Side, party: int, name: string, accounts: list<string>}> $parties
     */
    public function __construct(
        array $items,
        private readonly string $currency,
        array $theirNumbers = [],
        array $parties = [],
        private readonly int $mostCharge = 0,
    ) {
        foreach ($items as $item) {
            $side = $item->side->value;
            $this->ofParty[$side][$item->party][] = $item;
            foreach ([$item->number, ...$theirNumbers[$item->id] ?? []] as $name) {
                foreach (\strlen($name) > 3 ? self::keys($name) : [] as $key) {
                    $this->byDigits[$side][$key][] = [$item, $name];
                }
            }
            if ($item->open > 0 && $item->currency === $currency) {
                foreach (self::worths($item) as $worth) {
                    $this->byAmount[$side][$worth][] = $item;
                }
            }
        }
        foreach ($parties as $p) {
            foreach ($p['accounts'] as $account) {
                $this->accounts[$p['side']->value][BankLine::plain($account)] = $p['party'];
            }
            $name = self::spelled($p['name']);
            if (mb_strlen($name) >= self::SHORTEST_NAME) {
                $this->names[$p['side']->value][explode(' ', $name)[0]][$p['party']] = $name;
            }
        }
    }

    /** @return list<Find> the best first */
    public function finds(BankLine $line): array
    {
        $side = $line->amount > 0 ? Side::Receivables : Side::Payables;
        $finds = $parties = [];
        foreach ($this->named($side, $line) as $party => $why) {
            $parties[$party] = $why;
        }
        $byAccount =
            '' === $line->account ? null : $this->accounts[$side->value][BankLine::plain($line->account)] ?? null;
        if (null !== $byAccount) {
            $parties += [$byAccount => 'their account'];
        }
        foreach ([] === $parties ? $this->byName($side, $line) : [] as $party) {
            $parties[$party] = 'their name';
        }
        foreach ($parties as $party => $why) {
            array_push($finds, ...$this->ofParty($side, $party, $line, $why));
        }
        if ([] === $finds) {
            $finds = $this->byAmount($side, $line);
        }
        if ([] === $finds) {
            foreach ($parties as $party => $why) {
                $finds[] = new Find(FindKind::Party, $why, $line->amount, false, side: $side, party: $party);
            }
        }

        return $finds;
    }

    /** @return array<int, string> parties by what the text names, with the reason */
    private function named(Side $side, BankLine $line): array
    {
        $words = $line->words();
        $found = [];
        foreach (self::digits($words) as $digits) {
            foreach ($this->byDigits[$side->value][$digits] ?? [] as [$item, $name]) {
                if (!isset($found[$item->party]) && DocumentName::isIn($words, $name)) {
                    $found[$item->party] = \sprintf(
                        '' !== $line->named && DocumentName::isIn($line->named, $name)
                            ? 'its reference is that of %s'
                            : 'its text names %s',
                        $name,
                    );
                }
            }
        }

        return $found;
    }

    /** @return list<int> parties whose whole name stands in the line */
    private function byName(Side $side, BankLine $line): array
    {
        $words = ' '.self::spelled($line->party.' '.$line->text).' ';
        $found = [];
        foreach (array_unique(explode(' ', trim($words))) as $word) {
            foreach ($this->names[$side->value][$word] ?? [] as $party => $name) {
                if (str_contains($words, ' '.$name.' ')) {
                    $found[] = $party;
                }
            }
        }

        return array_values(array_unique($found));
    }

    /** @return list<Find> what the proposing of receipts makes of it */
    private function ofParty(Side $side, int $party, BankLine $line, string $why): array
    {
        $all = $this->ofParty[$side->value][$party] ?? [];
        $items = array_values(array_filter($all, fn (OpenItem $i): bool => $i->currency === $this->currency));
        $amount = abs($line->amount);
        $finds = [];
        foreach (
            Placer::ideas($amount, $line->words(), $items, $line->day, $line->amount > 0 ? $this->mostCharge : 0) as $idea
        ) {
            $rest = $amount - self::uses($idea, $items);
            $finds[] = new Find(
                FindKind::Items,
                0 === $rest
                    ? $why.', '.$idea->why->words()
                    : $why.', '.$idea->why->words().', and more is left',
                $line->amount,
                0 === $rest && !\in_array($idea->why, [Why::Lapsed, Why::Charge, Why::Oldest], true),
                idea: $idea,
                side: $side,
                party: $party,
                currency: $this->currency,
            );
        }
        if ([] === $finds) {
            $finds = $this->foreign($side, $party, $line, $all, $why);
        }
        // the first rule that fits is the proposal; the others follow for the clerk who looks on
        foreach ($finds as $k => $find) {
            $finds[$k] = 0 === $k ? $find : $find->but('another way');
        }

        return \array_slice($finds, 0, 3);
    }

    /**
     * Items in another currency that the text names: how much the bank made of them is on the line.
     *
     * @param list<OpenItem> $items
     *
     * @return list<Find>
     */
    private function foreign(Side $side, int $party, BankLine $line, array $items, string $why): array
    {
        $named = array_values(
            array_filter(
                $items,
                fn (OpenItem $i): bool => $i->currency !== $this->currency
                    && $i->open > 0
                    && DocumentName::isIn($line->words(), $i->number),
            ),
        );
        if (
            [] === $named
            || \count(array_unique(array_map(static fn (OpenItem $i): string => $i->currency, $named))) > 1
        ) {
            return [];
        }
        $idea = new Idea(Why::Text, Spending::whole($named, false, $line->day));

        return [
            new Find(
                FindKind::Items,
                $why.', in '.$named[0]->currency.' at the bank’s rate',
                $line->amount,
                false,
                idea: $idea,
                side: $side,
                party: $party,
                currency: $named[0]->currency,
            ),
        ];
    }

    /** @return list<Find> the items of just this amount, of whoever it is; nothing else speaks for them */
    private function byAmount(Side $side, BankLine $line): array
    {
        $amount = abs($line->amount);
        $finds = [];
        foreach ($this->byAmount[$side->value][$amount] ?? [] as $item) {
            $discount = $item->discountOn($line->day);
            if ($item->open !== $amount && $item->open - $discount !== $amount) {
                continue;
            }
            $finds[$item->id] = new Find(
                FindKind::Items,
                \sprintf('%s has this amount, nothing else names it', $item->number),
                $line->amount,
                false,
                idea: new Idea(Why::Amount, Spending::whole([$item], $item->open !== $amount, $line->day)),
                side: $side,
                party: $item->party,
                currency: $this->currency,
            );
        }

        return array_values($finds);
    }

    /**
     * What an idea takes of the money, minor units: credits that it uses give some back.
     *
     * @param list<OpenItem> $items
     */
    public static function uses(Idea $idea, array $items): int
    {
        $uses = 0;
        foreach ($items as $item) {
            $placed = $idea->placed[$item->id] ?? null;
            if (null !== $placed) {
                $uses += $item->open < 0 ? -$placed['gross'] : $placed['gross'] - $placed['discount'];
            }
        }

        return $uses;
    }

    /** @return list<int> what settling all of it takes: without discount, and with each that it may have */
    private static function worths(OpenItem $item): array
    {
        $worths = [$item->open];
        foreach ($item->discount->steps ?? [] as $step) {
            $worths[] = $item->open - $item->discountOn($step->through);
        }

        return array_values(array_unique($worths));
    }

    /** @return list<string> the numbers in a text, without the zeros they begin with */
    public static function digits(string $text): array
    {
        preg_match_all('/\d+/', $text, $m);

        return array_map(static fn (string $d): string => '' === ltrim($d, '0') ? '0' : ltrim($d, '0'), $m[0]);
    }

    /** @return list<string> the digits by which a text is searched for a number: its last group, and all of them without a gap */
    public static function keys(string $name): array
    {
        // "/2" at the end is an instalment
        $digits = self::digits(explode('/', $name, 2)[0]);
        $all = ltrim((string) preg_replace('/\D/', '', explode('/', $name, 2)[0]), '0');

        return [] === $digits ? [] : array_values(array_unique([$digits[\count($digits) - 1], $all]));
    }

    /** A name in small letters, its words a blank apart. */
    public static function spelled(string $name): string
    {
        return trim((string) preg_replace('/[^\p{L}\p{N}]+/u', ' ', mb_strtolower($name)));
    }
}
