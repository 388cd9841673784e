<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Approval\FarMore;
use Nelbix\Core\Approval\Release;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Source: rules.md, Who may alone, and with whom: "whoever set it; else an approver, never whoever pays it in the same day". */
final class ReleaseTest extends TestCase
{
    /** @return iterable<string, array{int, int|null, bool, bool}> who, who set it, approves, may */
    public static function releases(): iterable
    {
        yield 'who set it' => [1, 1, false, true];
        yield 'who set it and approves' => [1, 1, true, true];
        yield 'another who approves' => [2, 1, true, true];
        yield 'another' => [2, 1, false, false];
        yield 'nobody knows who set it' => [2, null, false, false];
        yield 'nobody knows, an approver' => [2, null, true, true];
    }

    #[DataProvider('releases')]
    public function testWhoReleases(int $who, ?int $setBy, bool $approves, bool $may): void
    {
        self::assertSame($may, null === Release::refuses($who, $setBy, $approves));
        self::assertSame($may, Release::mayDrop($who, $setBy, $approves), 'and so it is with what waits');
    }

    /** @return iterable<string, array{int, int|null, int|null, bool, bool}> payer, released by, set by, same day, kept from paying */
    public static function payers(): iterable
    {
        yield 'released somebody else’s today' => [2, 2, 1, true, true];
        yield 'released it yesterday' => [2, 2, 1, false, false];
        yield 'released their own today' => [1, 1, 1, true, false];
        yield 'another released it' => [3, 2, 1, true, false];
        yield 'nobody knows who set it' => [2, 2, null, true, true];
        yield 'was never held' => [2, null, null, true, false];
    }

    #[DataProvider('payers')]
    public function testWhoPays(int $payer, ?int $releasedBy, ?int $setBy, bool $sameDay, bool $kept): void
    {
        self::assertSame($kept, Release::keepsFromPaying($payer, $releasedBy, $setBy, $sameDay));
    }

    /** Source of the bound: common practice; exactly twice as much is not far more. */
    public function testFarMoreThanOwed(): void
    {
        foreach (
            [[200, 100, false], [201, 100, true], [1, 0, true], [1, -500, true], [100, 100, false]] as [$paid, $owed, $far]
        ) {
            self::assertSame($far, FarMore::is($paid, $owed), "$paid of $owed");
        }
    }
}
