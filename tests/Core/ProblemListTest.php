<?php

declare(strict_types=1);

namespace Nelbix\Tests\Core;

use Nelbix\Core\Ledger\LineKind;
use Nelbix\Core\Problem;
use Nelbix\Core\ProblemList;
use Nelbix\Core\Refused;
use PHPUnit\Framework\TestCase;

/** What is wrong with an input is heard of at once, and only what is refused: other errors pass through. */
final class ProblemListTest extends TestCase
{
    public function testEverythingIsCollectedInOrder(): void
    {
        $list = new ProblemList();
        self::assertSame(7, $list->attempt(static fn (): int => 7));
        $list->add('first', 'One.');
        self::assertNull(
            $list->attempt(
                static fn () => throw Refused::all([new Problem('second', 'Two.'), new Problem('third', 'Three.', 9)]),
                'lines.4.',
            ),
        );
        self::assertNull($list->attempt(static fn () => throw Refused::because('', 'Four.')));
        self::assertSame(
            [['first', null], ['lines.4.second', null], ['lines.4.third', 9], ['', null]],
            array_map(static fn (Problem $p): array => [$p->field, $p->line], $list->all),
        );
        try {
            $list->refuse();
            self::fail('it had to be refused');
        } catch (Refused $e) {
            self::assertSame('One. Two. Three. Four.', $e->getMessage());
            self::assertSame($list->all, $e->problems);
        }
    }

    public function testNothingWrongIsNoRefusal(): void
    {
        $list = new ProblemList();
        $list->refuse();
        self::assertSame([], $list->all);
    }

    public function testAnErrorOfTheProgramIsNotSwallowed(): void
    {
        $this->expectException(\LogicException::class);
        (new ProblemList())->attempt(static fn () => throw new \LogicException('a mistake in the code'));
    }

    /** EN 16931: an allowance lowers, a charge raises. */
    public function testSignsOfLines(): void
    {
        self::assertSame([1, -1, 1], array_map(static fn (LineKind $k): int => $k->sign(), LineKind::cases()));
    }
}
