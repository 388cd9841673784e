<?php

declare(strict_types=1);

namespace Nelbix\App\Banking\Statement;

use Nelbix\Core\Ledger\Side;
use Nelbix\Core\Placement\FindKind;
use Nelbix\Core\Refused;

/**
 * The place that a clerk gives a line, or a part of it: what stood before them when they sent it, down to the item and the amount.
 * It comes from a page, so everything in it is checked again by whoever posts it. Amounts in minor units.
 *
 * @phpstan-type AccountPart array{account: string, amount: int, tax: string, cost_center: string, department: string,
 *     project: string, text: string}
 */
final readonly class Choice
{
    private const MOST = 200;

    /** No amount of money and no id is so large; what is, was not written by a page of ours. */
    private const LARGEST = 10 ** 15;

    /**
     * @param int $amount of the line, in its sign
     * @param list<array{int, int}> $entries recorded before: entry, and how much of it
     * @param string $difference account that takes what line and record differ by
     * @param string $currency of the items, where money settles another than the bank's
     * @param int $money what settles the items, in their currency, positive
     * @param list<array{int, int, int, int}> $items item, gross in its own sign, the discount in it and what a bank on the way kept,
     *                                               both positive
     * @param list<AccountPart> $parts straight to accounts, in the line's sign
     * @param int $id of the other bank account, or of the receipt that bounced
     */
    public function __construct(
        public PartKind $kind,
        public int $amount,
        public ?FindKind $found = null,
        public array $entries = [],
        public string $difference = '',
        public ?Side $side = null,
        public int $party = 0,
        public string $currency = '',
        public int $money = 0,
        public array $items = [],
        public array $parts = [],
        public int $id = 0,
        public int $rule = 0,
    ) {
    }

    public function token(): string
    {
        return json_encode(
            [
                'k' => $this->kind->value,
                'a' => $this->amount,
                'f' => $this->found?->value,
                'e' => $this->entries,
                'd' => $this->difference,
                's' => $this->side?->value,
                'p' => $this->party,
                'c' => $this->currency,
                'm' => $this->money,
                'i' => $this->items,
                't' => $this->parts,
                'x' => $this->id,
                'r' => $this->rule,
            ],
            \JSON_THROW_ON_ERROR | \JSON_UNESCAPED_UNICODE,
        );
    }

    /** @throws Refused when it is nothing that a page of ours holds */
    public static function of(string $token): self
    {
        $raw = \strlen($token) > 60_000 ? null : json_decode($token, true, 6);
        $kind = \is_array($raw) && \is_string($raw['k'] ?? null) ? PartKind::tryFrom($raw['k']) : null;
        if (null === $kind || !\is_array($raw)) {
            throw Refused::because(
                '',
                'The place of a line could not be read; load the page anew and choose it again.',
            );
        }
        $int = static fn (mixed $v): int => \is_int($v) && abs($v) < self::LARGEST ? $v : 0;
        $text = static fn (mixed $v): string => \is_string($v) ? mb_substr(trim($v), 0, 255) : '';
        $rows = static fn (string $key): array => \is_array($raw[$key] ?? null)
            ? array_values(array_filter(\array_slice($raw[$key], 0, self::MOST), is_array(...)))
            : [];

        return new self(
            $kind,
            $int($raw['a'] ?? 0),
            FindKind::tryFrom($text($raw['f'] ?? '')),
            array_map(static fn (array $r): array => [$int($r[0] ?? 0), $int($r[1] ?? 0)], $rows('e')),
            $text($raw['d'] ?? ''),
            Side::tryFrom($text($raw['s'] ?? '')),
            $int($raw['p'] ?? 0),
            $text($raw['c'] ?? ''),
            $int($raw['m'] ?? 0),
            array_map(
                static fn (array $r): array => [$int($r[0] ?? 0), $int($r[1] ?? 0), $int($r[2] ?? 0), $int($r[3] ?? 0)],
                $rows('i'),
            ),
            array_map(
                static fn (array $r): array => [
                    'account' => $text($r['account'] ?? ''),
                    'amount' => $int($r['amount'] ?? 0),
                    'tax' => $text($r['tax'] ?? ''),
                    'cost_center' => $text($r['cost_center'] ?? ''),
                    'department' => $text($r['department'] ?? ''),
                    'project' => $text($r['project'] ?? ''),
                    'text' => $text($r['text'] ?? ''),
                ],
                $rows('t'),
            ),
            $int($raw['x'] ?? 0),
            $int($raw['r'] ?? 0),
        );
    }

    /** The same, with an account for what line and record differ by. */
    public function withDifference(string $account): self
    {
        return new self(...['difference' => trim($account)] + get_object_vars($this));
    }
}
