<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Brick\Math\BigDecimal;
use Nelbix\Core\Calendar\Day;
use Nelbix\Core\Ledger\DocumentKind;
use Nelbix\Core\Ledger\Side;
use Nelbix\Core\OpenItems\OpenItem;
use Nelbix\Core\Placement\BankLine;
use Nelbix\Core\Placement\Find;
use Nelbix\Core\Placement\Finder;
use Nelbix\Core\Placement\FindKind;
use Nelbix\Core\Placement\Found;
use Nelbix\Core\Placement\Movement;
use Nelbix\Core\Placement\OpenItemFinder;
use Nelbix\Core\Placement\ReadingRule;
use Nelbix\Core\Terms\DatedDiscount;
use Nelbix\Core\Terms\EarlyDiscount;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Places for the lines of a statement, in their order. Source: rules.md, Bank statements. */
final class FinderTest extends TestCase
{
    private const DAY = '2026-06-15';

    /** @param array<string, mixed> $more */
    private static function line(int $amount, string $text = '', array $more = []): BankLine
    {
        return new BankLine(
            ...['id' => 1, 'day' => Day::of(self::DAY), 'amount' => $amount, 'text' => $text, ...$more],
        );
    }

    /** @param array<string, mixed> $more */
    private static function moved(int $entry, int $amount, array $more = []): Movement
    {
        return new Movement(
            ...[
                'entry' => $entry,
                'day' => Day::of('2026-06-12'),
                'amount' => $amount,
                'number' => 'PY-26-0041'.$entry,
                ...$more,
            ],
        );
    }

    private static function item(
        int $id,
        int $party,
        int $open,
        Side $side = Side::Receivables,
        string $currency = 'USD',
    ): OpenItem {
        return new OpenItem(
            $id,
            $side,
            $party,
            DocumentKind::Invoice,
            \sprintf('%s-26-%05d', Side::Receivables === $side ? 'RI' : 'VI', 400 + $id),
            1,
            $currency,
            $open,
            $open,
            $open,
            $open,
            Day::of('2026-06-01'),
            Day::of('2026-07-01'),
        );
    }

    /**
     * @param list<Movement> $movements
     * @param list<OpenItem> $items
     * @param list<ReadingRule> $rules
     * @param list<array{side: Side, party: int, name: string, accounts: list<string>}> $parties
     */
    private static function found(
        BankLine $line,
        array $movements = [],
        array $items = [],
        array $rules = [],
        array $parties = [],
    ): Found {
        return (new Finder($movements, new OpenItemFinder($items, 'USD', [], $parties), $rules, ['DK77' => 9]))->of([
            $line,
        ])[1];
    }

    /** @return iterable<string, array{Found, FindKind|null, bool, string}> found, kind of the first, whether it is sure, its reason */
    public static function cases(): iterable
    {
        $check = self::moved(1, -5_000, ['check' => '1571', 'day' => Day::of('2026-01-02')]);
        yield 'a check by number and amount, however old' => [
            self::found(self::line(-5_000, 'CHECK', ['check' => '0001571']), [$check]),
            FindKind::Check,
            true,
            'check 1571',
        ];
        yield 'a check over another amount is shown and not marked' => [
            self::found(self::line(-5_100, 'CHECK', ['check' => '1571']), [$check]),
            FindKind::Check,
            false,
            'another amount',
        ];
        yield 'by its end-to-end reference' => [
            self::found(self::line(-5_000, '', ['reference' => 'PY-26-00411']), [
                self::moved(1, -5_000),
                self::moved(2, -5_000),
            ]),
            FindKind::Reference,
            true,
            'its text names PY-26-00411',
        ];
        yield 'an equal amount ten days apart' => [
            self::found(self::line(-5_000), [self::moved(1, -5_000, ['day' => Day::of('2026-06-05')])]),
            FindKind::Movement,
            true,
            '10 days before',
        ];
        yield 'eleven days apart is too far' => [
            self::found(self::line(-5_000), [self::moved(1, -5_000, ['day' => Day::of('2026-06-04')])]),
            null,
            false,
            '',
        ];
        yield 'two of the same amount: none is marked' => [
            self::found(self::line(-5_000), [self::moved(1, -5_000), self::moved(2, -5_000)]),
            FindKind::Movement,
            false,
            '3 days before',
        ];
        yield 'the other direction is nothing' => [
            self::found(self::line(5_000), [self::moved(1, -5_000)]),
            null,
            false,
            '',
        ];
        yield 'nearly the amount, for the party that is named' => [
            self::found(self::line(-4_990, 'Averill Moorings'), [
                self::moved(1, -5_000, ['party' => 'Averill Moorings', 'document' => 7]),
            ]),
            FindKind::Movement,
            false,
            'of the same party',
        ];
        yield 'an open item that the text names' => [
            self::found(self::line(9_800, 'RI-26-00401'), [], [self::item(1, 3, 9_800), self::item(2, 3, 9_800)]),
            FindKind::Items,
            true,
            'its text names RI-26-00401, their text names it',
        ];
        yield 'by the number in a structured reference (ISO 11649)' => [
            self::found(self::line(9_800, '', ['named' => 'RI2600401']), [], [self::item(1, 3, 9_800)]),
            FindKind::Items,
            true,
            'its reference is that of RI-26-00401',
        ];
        yield 'by the party’s account' => [
            self::found(
                self::line(9_800, 'thank you', ['account' => 'NL91 ABNA 0417 1643 00']),
                [],
                [self::item(1, 3, 9_800), self::item(2, 4, 9_800)],
                [],
                [
                    [
                        'side' => Side::Receivables,
                        'party' => 3,
                        'name' => 'Kittiwake',
                        'accounts' => ['NL91ABNA0417164300'],
                    ],
                ],
            ),
            FindKind::Items,
            true,
            'their account, one amount fits',
        ];
        yield 'a sum, of the party whose name is there' => [
            self::found(
                self::line(15_000, '', ['party' => 'KITTIWAKE Yacht-Club']),
                [],
                [self::item(1, 3, 9_000), self::item(2, 3, 6_000), self::item(3, 3, 777)],
                [],
                [['side' => Side::Receivables, 'party' => 3, 'name' => 'Kittiwake Yacht Club', 'accounts' => []]],
            ),
            FindKind::Items,
            true,
            'their name, only one sum fits',
        ];
        yield 'an amount alone is shown and not marked' => [
            self::found(self::line(9_800, 'thank you'), [], [self::item(1, 3, 9_800)]),
            FindKind::Items,
            false,
            'nothing else names it',
        ];
        yield 'money that went out looks at vendors' => [
            self::found(
                self::line(-9_800, 'VI-26-00401'),
                [],
                [self::item(1, 3, 9_800, Side::Payables), self::item(2, 4, 9_800)],
            ),
            FindKind::Items,
            true,
            'its text names VI-26-00401',
        ];
        yield 'an item in another currency at the bank’s rate' => [
            self::found(self::line(10_750, 'RI-26-00401'), [], [self::item(1, 3, 10_000, Side::Receivables, 'EUR')]),
            FindKind::Items,
            false,
            'in EUR at the bank’s rate',
        ];
        yield 'our other account' => [
            self::found(self::line(-9_800, '', ['account' => 'DK 77'])),
            FindKind::Transfer,
            true,
            'is ours',
        ];
        yield 'the first rule that fits' => [
            self::found(
                self::line(-1_850, 'Account Service FEE 06'),
                [],
                [],
                [
                    new ReadingRule(4, 'too much', ['fee'], -1, 2_000),
                    new ReadingRule(5, 'money in', ['fee'], 1),
                    new ReadingRule(6, 'the fee', ['service', 'fee'], -1, null, 2_000),
                    new ReadingRule(7, 'later', ['fee']),
                ],
            ),
            FindKind::Rule,
            true,
            'rule “the fee”',
        ];
        yield 'what was recorded comes before a rule' => [
            self::found(self::line(-5_000, 'fee'), [self::moved(1, -5_000)], [], [new ReadingRule(7, 'fee', ['fee'])]),
            FindKind::Movement,
            true,
            'the same amount',
        ];
    }

    #[DataProvider('cases')]
    public function testFinds(Found $found, ?FindKind $kind, bool $sure, string $reason): void
    {
        self::assertSame($kind, ($found->finds[0] ?? null)?->kind);
        self::assertSame($sure, $found->sure);
        self::assertStringContainsString($reason, ($found->finds[0] ?? null)->reason ?? '');
    }

    /** A bank that wrote its line twice gets the record for neither; nor may two lines settle one item. */
    public function testWhatTwoLinesWantIsGivenToNeither(): void
    {
        $finder = new Finder([self::moved(1, -5_000)], new OpenItemFinder([self::item(1, 3, 9_800)], 'USD'));
        $found = $finder->of([
            self::line(-5_000, '', ['id' => 1]),
            self::line(-5_000, '', ['id' => 2]),
            self::line(9_800, 'RI-26-00401', ['id' => 3]),
            self::line(9_800, 'RI-26-00401', ['id' => 4]),
        ]);
        self::assertSame(
            [false, false, false, false],
            array_values(array_map(static fn (Found $f): bool => $f->sure, $found)),
        );
        self::assertStringContainsString('wants it too', $found[1]->finds[0]->reason);
    }

    /** Who pays less the discount takes it; who pays in full takes none. */
    public function testTheDiscountIsTakenOrNot(): void
    {
        $item = self::item(1, 3, 10_000);
        $item = new OpenItem(
            ...[
                ...get_object_vars($item),
                'discount' => new EarlyDiscount(10_000, 10_000, [
                    new DatedDiscount(Day::of('2026-06-20'), BigDecimal::of(2), 200),
                ]),
            ],
        );
        foreach ([9_800 => 200, 10_000 => 0] as $amount => $discount) {
            $find = self::found(self::line($amount, 'RI-26-00401'), [], [$item])->finds[0];
            self::assertSame([1 => ['gross' => 10_000, 'discount' => $discount]], $find->idea?->placed);
        }
    }

    /** The order in which records and items come never changes what is found. */
    public function testOrderChangesNothing(): void
    {
        mt_srand(7);
        for ($n = 0; $n < 200; ++$n) {
            $movements = array_map(
                static fn (int $e): Movement => self::moved($e, -1_000 * mt_rand(1, 4), [
                    'day' => Day::of('2026-06-'.mt_rand(10, 20)),
                ]),
                range(1, 6),
            );
            $lines = array_map(
                static fn (int $id): BankLine => self::line(-1_000 * mt_rand(1, 4), '', ['id' => $id]),
                range(1, 5),
            );
            $look = static fn (array $m, array $l): array => array_map(
                static fn (Found $f): array => [$f->sure, array_map(static fn (Find $x): int => $x->entry, $f->finds)],
                (static function (array $found): array {
                    ksort($found);

                    return $found;
                })((new Finder(array_values($m), new OpenItemFinder([], 'USD')))->of(array_values($l))),
            );
            self::assertSame($look($movements, $lines), $look(array_reverse($movements), array_reverse($lines)));
        }
    }
}
