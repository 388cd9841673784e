<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Ledger\AccountRole;
use Nelbix\Core\Settlement\Recovery;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Source: rules.md, Journal entries, receipt on a debt written off. */
final class RecoveryTest extends TestCase
{
    /** @return iterable<string, array{int, array<int, int>, int|null, array<int, int>}> money, left, named, shares */
    public static function shares(): iterable
    {
        yield 'the oldest first' => [500, [7 => 300, 9 => 400], null, [7 => 300, 9 => 200]];
        yield 'the one that is named' => [500, [7 => 300, 9 => 400], 9, [9 => 400, 7 => 100]];
        yield 'just one' => [300, [7 => 300, 9 => 400], null, [7 => 300]];
        yield 'a part of one' => [299, [7 => 300, 9 => 400], null, [7 => 299]];
        yield 'more than there is' => [701, [7 => 300, 9 => 400], null, [7 => 300, 9 => 400]];
        yield 'another’s is named' => [100, [7 => 300], 8, [7 => 100]];
        yield 'nothing' => [0, [7 => 300], 7, []];
        yield 'nothing left' => [100, [7 => 0], 7, []];
    }

    /**
     * @param array<int, int> $left
     * @param array<int, int> $expected
     */
    #[DataProvider('shares')]
    public function testShares(int $money, array $left, ?int $named, array $expected): void
    {
        self::assertSame($expected, Recovery::share($money, $left, $named));
    }

    public function testWhereItGoes(): void
    {
        self::assertSame(AccountRole::BadDebtsRecovered, Recovery::role(false, false));
        self::assertSame(AccountRole::BadDebtsRecovered, Recovery::role(true, false));
        self::assertSame(AccountRole::BadDebtsRecovered, Recovery::role(false, true));
        self::assertSame(AccountRole::BadDebtAllowance, Recovery::role(true, true));
    }
}
